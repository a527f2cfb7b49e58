import { useQueries, useQuery, keepPreviousData } from '@tanstack/react-query'
import { api, take, type Row } from '../api/client'
import type { components } from '../api/schema'
import { client } from '../api/queries'
import { kept } from './store'
import type { Target, Targets } from './listing'

export type Group = components['schemas']['GroupView']
type Members = components['schemas']['GroupMembers']
export type By = 'sender' | 'domain' | 'subject' | 'kind' | 'label' | 'account' | 'age' | 'matters'
export type GroupedPlace = 'inbox' | 'shallows' | 'archive' | 'bin' | 'junk' | 'found'

/** What lists are grouped by; the first is how their letters came. */
export const groupings: readonly (readonly [By | '', string])[] = [
  ['', 'As they came'],
  ['matters', 'What matters first'],
  ['sender', 'By sender'],
  ['domain', 'By domain'],
  ['subject', 'By subject'],
  ['kind', 'By kind'],
  ['label', 'By label'],
  ['account', 'By account'],
  ['age', 'By age'],
]

/** What each list is grouped by, by its name. */
export const grouping = kept<Partial<Record<GroupedPlace, By>>>('grouping', {})

export interface Ask {
  place: GroupedPlace
  by: By
  account: number
  /** What is looked for, where what is found is grouped. */
  q?: string
  within?: string
}

const read = ({ place, by, account, q, within }: Ask) => ({
  path: { place },
  query: { by, account, ...(q ? { q, within } : {}) },
})

export const useGroups = (ask: Ask) =>
  useQuery({
    queryKey: ['groups', ask],
    queryFn: () => take(api.GET('/api/groups/{place}', { params: read(ask) })),
    placeholderData: keepPreviousData,
  })

const membersQuery = (ask: Ask, key: string, until: number) => {
  const { path, query } = read(ask)
  return {
    queryKey: ['groups', ask, 'all', key, until],
    queryFn: (): Promise<Members> =>
      take(api.GET('/api/groups/{place}/all', { params: { path, query: { ...query, key, until } } })),
  }
}

/** Everything in a group as it was drawn: what was starred apart from the rest. */
export const readMembers = (ask: Ask, key: string, until: number) =>
  client.fetchQuery({ ...membersQuery(ask, key, until), staleTime: 5000 })

/** What was read of that, if it was and still holds. */
export function membersNow(ask: Ask, key: string, until: number) {
  const state = client.getQueryState<Members>(membersQuery(ask, key, until).queryKey)
  return state && !state.isInvalidated && state.fetchStatus === 'idle' ? state.data : undefined
}

/** What is in the group in focus is read ahead, so that a key acts on it at once. */
export const useMembersAhead = (ask: Ask, key: string | undefined, until: number) =>
  useQuery({ ...membersQuery(ask, key ?? '', until), enabled: key !== undefined, staleTime: 5000 })

export const asTargets = (list: Members['rest'], place: string): Targets => list.map((s): Target => ({ ...s, place }))

/** The rows of the groups that are unfolded, so many pages of each. */
export function useGroupRows(ask: Ask, unfolded: ReadonlyMap<string, number>) {
  const { path, query } = read(ask)
  const asked = [...unfolded].flatMap(([key, pages]) => Array.from({ length: pages }, (_, page) => ({ key, page })))
  return useQueries({
    queries: asked.map(({ key, page }) => ({
      queryKey: ['groups', ask, 'rows', key, page],
      queryFn: () =>
        take(
          api.GET('/api/groups/{place}/rows', {
            params: { path, query: { ...query, key, cursor: page === 0 ? '' : String(page * pageSize) } },
          }),
        ),
    })),
    combine: (all) => {
      const rows = new Map<string, { rows: Row[]; more: boolean }>()
      asked.forEach(({ key }, i) => {
        const page = all[i]?.data
        if (!page) return
        rows.set(key, { rows: [...(rows.get(key)?.rows ?? []), ...page.rows], more: Boolean(page.next) })
      })
      return rows
    },
  })
}

/** How many rows a page has, as the server cuts it. */
const pageSize = 100
