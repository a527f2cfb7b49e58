import { queryOptions, useQuery } from '@tanstack/react-query'
import { api, take, type Proposal } from '../api/client'
import { dayAndClock, serverNow } from './time'

// Phrases are read by the server. What somebody is likely to type is read
// before, so that a letter can be put off while the server can't be reached.

const minutes = 60_000

export const readyQuery = queryOptions({
  queryKey: ['phrase', 'ready'],
  queryFn: () => take(api.GET('/api/phrases/ready')),
  staleTime: 10 * minutes,
  gcTime: Infinity,
})

/** What was read before and begins as typed; after a day a time of it may
 * stand, as in “27 nov 14:00”. */
export function useReady(typed: string, on: boolean): Proposal[] {
  const { data = [] } = useQuery({ ...readyQuery, enabled: on })
  const text = typed.trim().toLowerCase().replace(/\s+/g, ' ')
  if (!on || !text) return []
  // Words that time has passed by would mean another time now.
  const now = serverNow()
  const still = data.filter((r) => (!r.until || new Date(r.until) > now) && (!r.at || new Date(r.at) > now))
  // A clock with all its digits is read in one way only.
  const [, day, clock] = /^(.+?)(?: at)? ((?:[01]\d|2[0-3]):[0-5]\d)$/.exec(text) ?? []
  if (clock)
    return still
      .filter((r) => r.typed === day && r.day)
      .map((r) => ({
        ...r,
        label: text,
        phrase: `${r.day} ${clock}`,
        words: dayAndClock(r.at ?? '').replace(/\d\d:\d\d/, clock),
        why: '',
        at: undefined,
      }))
  return still
    .filter((r) => r.typed.startsWith(text))
    .map((r) => (r.at ? { ...r, words: dayAndClock(r.at), why: '' } : r))
    .sort((a, b) => Number(b.typed === text) - Number(a.typed === text))
    .slice(0, 8)
}
