import { useEffect } from 'react'
import { toast, Toaster } from 'sonner'
import { useFocus } from '../state/focus'
import { toastsShown } from '../state/toast'

/** Whether one types on a phone: there is nothing else in sight below than what is typed, and the keys. */
const typesOnAPhone = () =>
  matchMedia('(width < 48rem)').matches &&
  document.activeElement?.matches('textarea, [contenteditable=true], input:not([type=checkbox], [type=radio])') === true

/** Where what was done is said for a moment. */
export function Toasts() {
  useEffect(() => toastsShown(toast), [])
  const above = useFocus(typesOnAPhone)
  return (
    <Toaster
      style={{ fontFamily: 'inherit' }}
      position={above ? 'top-center' : 'bottom-right'}
      offset={{ bottom: 84, right: 16 }}
      mobileOffset={{ bottom: 130, top: 6 }}
      toastOptions={{
        style: {
          fontFamily: 'inherit',
          background: 'var(--paper)',
          color: 'var(--ink)',
          borderColor: 'var(--line)',
        },
        actionButtonStyle: { background: 'var(--deep)', color: 'var(--on-deep)' },
      }}
    />
  )
}
