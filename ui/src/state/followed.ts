import { api, take } from '../api/client'
import { begin } from './writing'
import { watched } from './store'

/** The conversation to which an answer has just been sent, so that the
 * follow-up from which it was answered can ask what becomes of it. */
export const answered = watched<number | undefined>(undefined)

/** Begins the letter with which a follow-up is handed to somebody else. */
export async function startHandOver(id: number) {
  const n = await take(api.GET('/api/follow-ups/{id}/hand-over', { params: { path: { id } } }))
  begin(n.writing, n.conversation || undefined, n.last ? { last: n.last } : undefined)
  return n.conversation
}
