import { useEffect, useState, type ComponentType, type ReactNode } from 'react'
import { useLatest } from '../state/latest'
import { failed } from '../state/failed'

/** How long is waited before a part that could not be fetched is tried again, in ms. */
const pause = 3000

/**
 * A part of the page that is fetched when it is first shown. What can't be fetched
 * breaks nothing: a dialog is closed and says so, anything else is tried again for as
 * long as it is wanted.
 */
export function part<P extends object>(
  fetch: () => Promise<ComponentType<P>>,
  meanwhile?: ReactNode,
): ComponentType<P> {
  let fetched: ComponentType<P> | undefined
  return function Part(props: P) {
    const [Fetched, show] = useState(() => fetched)
    const dialog = 'onClose' in props
    const close = useLatest(() => 'onClose' in props && (props.onClose as () => void)())
    useEffect(() => {
      if (Fetched) return
      let wanted = true
      let again: ReturnType<typeof setTimeout> | undefined
      const start = () =>
        void fetch().then(
          (it) => {
            fetched = it
            if (wanted) show(() => it)
          },
          () => {
            if (!wanted) return
            if (!dialog) again = setTimeout(start, pause)
            else {
              close()
              failed('That part of the page could not be fetched. Try again once Ebbe can be reached.')
            }
          },
        )
      start()
      return () => {
        wanted = false
        clearTimeout(again)
      }
    }, [Fetched, dialog, close])
    if (Fetched) return <Fetched {...props} />
    return dialog ? <Opening onClose={close} /> : meanwhile
  }
}

/** Stands for a dialog that is being fetched, so that no key reaches what lies
 * beneath meanwhile; Escape gives it up. */
function Opening({ onClose }: { onClose: () => void }) {
  useEffect(() => {
    const give = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return
      e.preventDefault()
      onClose()
    }
    addEventListener('keydown', give, true)
    return () => removeEventListener('keydown', give, true)
  }, [onClose])
  return <div role="dialog" aria-busy aria-label="Opening" className="sr-only" />
}
