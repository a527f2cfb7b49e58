import { useEffect, useRef, useState } from 'react'
import type { Conversation, Foretold } from '../api/client'

/** How long a letter is looked at before one key takes what is foretold: a habit must not press it. */
const look = 400

/** What is foretold of the letter that is shown. It stays what it was when the letter came into sight. */
export function useForetold(c: Conversation | undefined) {
  const [held, setHeld] = useState<{ id: number; last: number; foretold?: Foretold }>()
  const since = useRef(Infinity)
  if (c && (held?.id !== c.id || held.last !== c.last)) setHeld({ id: c.id, last: c.last, foretold: c.foretold })
  const here = c !== undefined && held?.id === c.id
  useEffect(() => {
    since.current = here ? performance.now() : Infinity
  }, [here, held?.id, held?.last])
  const shown = here ? held.foretold : undefined
  return {
    shown,
    /** What one key takes now, if anything. */
    taken: () => (shown?.taken && performance.now() - since.current >= look ? shown : undefined),
  }
}
