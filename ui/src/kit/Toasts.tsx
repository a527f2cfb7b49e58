import { useEffect } from 'react'
import { toast, Toaster } from 'sonner'
import { toastsShown } from '../state/toast'

/** Where what was done is said for a moment. */
export function Toasts() {
  useEffect(() => toastsShown(toast), [])
  return (
    <Toaster
      style={{ fontFamily: 'inherit' }}
      position="bottom-right"
      offset={{ bottom: 84, right: 16 }}
      mobileOffset={{ bottom: 130 }}
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
