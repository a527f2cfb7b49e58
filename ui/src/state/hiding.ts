import type { Ahead, Board, Entry, Reading, Row, Waiting } from '../api/client'
import { client, type ListData } from '../api/queries'
import { watched } from './store'

/** What a row of a list is known by: a conversation by its number, others by their list
 * and number. */
export type RowKey = number | `${Entry['kind'] | 'waiting' | 'follow-up'}:${number}`

/** Rows decided in this page, hidden from lists before the server says so; each with
 * the command that hides it. */
const hidden = watched<ReadonlyMap<RowKey, string>>(new Map())
export const useHidden = hidden.use

export function hide(keys: readonly RowKey[], command: string) {
  hidden.set((was) => new Map([...was, ...keys.map((key) => [key, command] as const)]))
}

/** Shows again what a command hides, unless it has gone for good. */
export function show(command: string) {
  hidden.set((was) => new Map([...was].filter(([, by]) => by !== command)))
}

type Gone = ReadonlySet<RowKey>

/** Where rows stand in what was read of the server, and how they are taken out there. */
const lists: {
  key: [Reading, ...string[]]
  holds: (key: RowKey) => boolean
  without: (data: never, gone: Gone) => unknown
}[] = [
  {
    key: ['list'],
    holds: (key) => typeof key === 'number',
    without: (data: ListData, gone) => ({
      ...data,
      pages: data.pages.map((p) => ({ ...p, rows: p.rows.filter((r: Row) => !gone.has(r.id)) })),
    }),
  },
  {
    key: ['waiting'],
    holds: (key) => String(key).startsWith('waiting:'),
    without: (data: Waiting[], gone) => data.filter((w) => !gone.has(`waiting:${w.id}`)),
  },
  {
    key: ['follow-ups', 'board'],
    holds: (key) => String(key).startsWith('follow-up:'),
    without: (data: Board, gone) => boardWithout(data, gone),
  },
  {
    key: ['ahead'],
    holds: (key) => typeof key === 'string',
    without: (data: Ahead, gone) =>
      'entries' in data ? { ...data, entries: data.entries.filter((e) => !gone.has(`${e.kind}:${e.id}`)) } : data,
  },
]

/** A board without some of its cards. */
export function boardWithout(board: Board, gone: { has: (key: RowKey) => boolean }): Board {
  const left = board.lanes.map((l) => ({ ...l, ids: l.ids.filter((id) => !gone.has(`follow-up:${id}`)) }))
  const count = (all: Board['lanes']) => all.reduce((n, l) => n + l.ids.length, 0)
  return { ...board, lanes: left, total: board.total - (count(board.lanes) - count(left)) }
}

/** Takes rows that have gone for good out of all lists that were read. What is being
 * read at this moment may still have them: it is given up, and gives the lists that
 * are to be read again. */
export function takeOut(gone: Gone): Reading[] {
  const again = new Set<Reading>()
  for (const { key, holds, without } of lists) {
    if (![...gone].some(holds)) continue
    for (const query of client.getQueryCache().findAll({ queryKey: key })) {
      if (query.state.fetchStatus === 'fetching') {
        void client.cancelQueries({ queryKey: query.queryKey, exact: true }, { silent: true })
        again.add(key[0])
      }
    }
    client.setQueriesData({ queryKey: key }, (data) => (data === undefined ? data : without(data as never, gone)))
  }
  return [...again]
}
