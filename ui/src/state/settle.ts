import { useEffect, type RefObject } from 'react'

// A field with completion may hold something typed that was not taken yet. What
// acts on a form asks all of its fields first.

const settling = 'settle'

/** Whether every field of a form has taken what stands in it. One that can't
 * says why itself, and has the focus. */
export function settled(form: Element | null): boolean {
  const fields = [...(form?.querySelectorAll<HTMLElement>('[data-settles]') ?? [])]
  const refused = fields.filter((f) => !f.dispatchEvent(new CustomEvent(settling, { cancelable: true })))
  refused[0]?.focus()
  return refused.length === 0
}

/** Lets a field take what was typed into it; take tells whether it could. */
export function useSettle(field: RefObject<HTMLElement | null>, take: () => boolean) {
  useEffect(() => {
    const at = field.current
    if (!at) return
    const settle = (e: Event) => {
      if (!take()) e.preventDefault()
    }
    at.addEventListener(settling, settle)
    return () => at.removeEventListener(settling, settle)
  })
}
