/** Does something once what has just changed is painted, or soon where nothing is
 * painted, as in a page behind another. Gives what forgets it. */
export function afterPaint(fn: () => void): () => void {
  let done = false
  const once = () => {
    if (done) return
    done = true
    fn()
  }
  const at = document.hidden ? setTimeout(once) : setTimeout(once, 100)
  if (!document.hidden) requestAnimationFrame(() => setTimeout(once))
  return () => {
    done = true
    clearTimeout(at)
  }
}
