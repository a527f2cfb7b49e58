import { queryOptions, useQuery } from '@tanstack/react-query'
import { api, take, type Proposal } from '../api/client'

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
  const [, day, clock] = /^(.+?)(?: at)? (\d{1,2}:\d{2})$/.exec(text) ?? []
  if (clock)
    return data
      .filter((r) => r.typed === day && r.day)
      .map((r) => ({
        ...r,
        label: text,
        phrase: `${r.day} ${clock}`,
        words: r.words.replace(/\d\d:\d\d/, clock.padStart(5, '0')),
        at: undefined,
      }))
  return data
    .filter((r) => r.typed.startsWith(text))
    .sort((a, b) => Number(b.typed === text) - Number(a.typed === text))
    .slice(0, 8)
}
