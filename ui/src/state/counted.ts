import type { Overview } from '../api/client'
import { useQueuedOut } from './commands'
import { useOnline } from './online'

/** The day as this page knows it: while the server can't be reached, without
 * what was decided here since. */
export function useCounted(overview: Overview | undefined): Overview | undefined {
  const online = useOnline()
  const out = useQueuedOut()
  if (!overview || online || out === 0) return overview
  return { ...overview, inbox: Math.max(0, overview.inbox - out) }
}
