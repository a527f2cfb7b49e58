import { useNavigate } from '@tanstack/react-router'
import { useEffect, useRef, useState } from 'react'
import { api, errorText, newId, take } from '../api/client'
import { client } from '../api/queries'
import { toast } from '../state/toast'

/** Where somebody comes back to who has signed in for their mail server: what they bring
 * is handed over, and they are where they were. */
export function SignedIn() {
  const go = useNavigate()
  const [wrong, setWrong] = useState('')
  const begun = useRef(false)
  useEffect(() => {
    if (begun.current) return
    begun.current = true
    const brought = new URLSearchParams(location.search)
    const body = {
      command: newId(),
      state: brought.get('state') ?? '',
      code: brought.get('code') ?? '',
      error: brought.get('error') ?? '',
    }
    // It is good once, and nobody needs it in the history.
    history.replaceState(history.state, '', location.pathname)
    take(api.POST('/api/sign-ins', { body })).then(
      (done) => {
        toast(done.title)
        void client.invalidateQueries({ queryKey: ['accounts'] })
        void go({ to: '/accounts', replace: true })
      },
      (e: unknown) => setWrong(errorText(e, 'That did not work.')),
    )
  }, [go])
  return (
    <main
      className="mx-auto grid min-h-0 w-full max-w-md flex-1 place-content-center gap-4 px-6"
      aria-label="Signed in"
    >
      <p role="status" className="text-[17px]">
        {wrong || 'Connecting the account…'}
      </p>
      {wrong && (
        <button autoFocus className="btn btn-main justify-self-start" onClick={() => void go({ to: '/accounts' })}>
          Back to the accounts
        </button>
      )}
    </main>
  )
}
