import { useSyncExternalStore } from 'react'

/** Gives the focus back to what had it; if that has gone, to what is being
 * written, else to the list of the view. */
export function giveFocus(to?: Element | null) {
  if (to instanceof HTMLElement && to.isConnected && to !== document.body) {
    to.focus({ preventScroll: true })
    if (document.activeElement === to) return
  }
  ;(inSight('[data-writing]') ?? inSight('[data-home]'))?.focus({ preventScroll: true })
}

const inSight = (selector: string) =>
  [...document.querySelectorAll<HTMLElement>(selector)].find((h) => h.getClientRects().length > 0)

/** After something has closed: what it leaves is looked for once the page is drawn. */
export const focusLeft = () => requestAnimationFrame(() => focusIsLost() && giveFocus())

/** Moves the real focus along with the one that is shown, once it is drawn. */
export const focusOn = (id: string) =>
  requestAnimationFrame(() => document.getElementById(id)?.focus({ preventScroll: true }))

/** Whether the focus has fallen to the page itself: what had it is no more. */
export const focusIsLost = () => document.activeElement === null || document.activeElement === document.body

/** Whether a letter is being written in sight: then keys are text. */
export const isWriting = () => inSight('[data-writing]') !== undefined

const focusMoves = (told: () => void) => {
  document.addEventListener('focusin', told)
  document.addEventListener('focusout', told)
  return () => {
    document.removeEventListener('focusin', told)
    document.removeEventListener('focusout', told)
  }
}

/** What is read of the focus, anew each time it moves. */
export const useFocus = (read: () => boolean) => useSyncExternalStore(focusMoves, read)
