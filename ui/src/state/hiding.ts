import type { Ahead, Board, Entry, Reading, Row, Shallows, ShoalLine, Sitting, Waiting } from '../api/client'
import { client, letterLists, type ListData } from '../api/queries'
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

/** Hidden rows as numbers by their kind: looked for in ten thousand rows, those are
 * quicker than keys made of each. */
function byKind(keys: { keys: () => Iterable<RowKey> }): ReadonlyMap<string, ReadonlySet<number>> {
  const out = new Map<string, Set<number>>()
  for (const key of keys.keys()) {
    if (typeof key === 'number') continue
    const [kind = '', id] = key.split(':')
    out.set(kind, (out.get(kind) ?? new Set()).add(Number(id)))
  }
  return out
}

/** Rows but for those that are hidden; the same ones where none of them is. They are of
 * one kind, or each says its own. */
export function withoutHidden<T extends { id: number; kind?: string }>(
  rows: T[],
  hidden: { keys: () => Iterable<RowKey> },
  kind = '',
): T[] {
  const gone = byKind(hidden)
  if (gone.size === 0) return rows
  const left = rows.filter((r) => !gone.get(r.kind ?? kind)?.has(r.id))
  return left.length === rows.length ? rows : left
}

type Gone = ReadonlySet<RowKey>

/** Where rows stand in what was read of the server, and how they are taken out there. */
const lists: {
  key: readonly [Reading, ...string[]]
  /** It is read whole, up to ten thousand rows. */
  whole?: true
  holds: (key: RowKey) => boolean
  without: (data: never, gone: Gone) => unknown
}[] = [
  {
    key: letterLists,
    holds: (key) => typeof key === 'number',
    without: (data: ListData, gone) => ({
      ...data,
      pages: data.pages.map((p) => ({ ...p, rows: p.rows.filter((r: Row) => !gone.has(r.id)) })),
    }),
  },
  {
    key: ['shallows'],
    holds: (key) => typeof key === 'number',
    without: (data: Shallows, gone) => shallowsWithout(data, gone),
  },
  {
    key: ['sitting'],
    holds: (key) => typeof key === 'number',
    without: (data: Sitting, gone) => sittingWithout(data, gone),
  },
  {
    key: ['waiting'],
    whole: true,
    holds: (key) => String(key).startsWith('waiting:'),
    without: (data: Waiting[], gone) => withoutHidden(data, gone, 'waiting'),
  },
  {
    key: ['follow-ups', 'board'],
    whole: true,
    holds: (key) => String(key).startsWith('follow-up:'),
    without: (data: Board, gone) => boardWithout(data, gone),
  },
  {
    key: ['ahead', 'list'],
    whole: true,
    holds: (key) => typeof key === 'string',
    without: (data: Ahead, gone) => {
      const entries = withoutHidden(data.entries, gone)
      return entries === data.entries ? data : { ...data, entries }
    },
  },
]

/** A board without some of its cards. */
export function boardWithout(board: Board, gone: { keys: () => Iterable<RowKey> }): Board {
  const numbers = byKind(gone).get('follow-up')
  if (!numbers) return board
  const left = board.lanes.map((l) => ({ ...l, ids: l.ids.filter((id) => !numbers.has(id)) }))
  const count = (all: Board['lanes']) => all.reduce((n, l) => n + l.ids.length, 0)
  const went = count(board.lanes) - count(left)
  return went === 0 ? board : { ...board, lanes: left, total: board.total - went }
}

/** The Shallows without some conversations. */
export function shallowsWithout(data: Shallows, gone: { has: (key: RowKey) => boolean }): Shallows {
  let went = 0
  const kinds = data.kinds.map((k) => {
    const lines = k.lines.flatMap((l) => {
      const rows = l.rows.filter((r) => !gone.has(r.id))
      return rows.length === 0 ? [] : rows.length === l.rows.length ? [l] : [{ ...l, rows }]
    })
    const count = (all: ShoalLine[]) => all.reduce((n, l) => n + l.rows.length, 0)
    const out = count(k.lines) - count(lines)
    went += out
    return out === 0 ? k : { ...k, lines, n: k.n - out }
  })
  return went === 0 ? data : { ...data, kinds, n: data.n - went }
}

/** A sitting without some of the conversations that come. */
export function sittingWithout(data: Sitting, gone: { has: (key: RowKey) => boolean }): Sitting {
  const went = data.next.filter((r) => gone.has(r.id))
  if (went.length === 0) return data
  const fresh = went.filter((r) => r.new).length
  return {
    ...data,
    next: data.next.filter((r) => !gone.has(r.id)),
    left: data.left - (went.length - fresh),
    new: data.new - fresh,
  }
}

/** The lists that are read whole and hold some of the rows. */
export const wholeListsOf = (gone: Gone): Reading[] =>
  lists.flatMap(({ key, whole, holds }) => (whole && [...gone].some(holds) ? [key[0]] : []))

/** Takes rows that have gone for good out of all lists that were read, but for what was
 * read since then. What is being read at this moment may still have them: it is given
 * up, and gives the lists that are to be read again. */
export function takeOut(gone: Gone, since = Infinity): Reading[] {
  const again = new Set<Reading>()
  for (const { key, holds, without } of lists) {
    if (![...gone].some(holds)) continue
    for (const query of client.getQueryCache().findAll({ queryKey: key })) {
      const { data, dataUpdatedAt, fetchStatus, isInvalidated } = query.state
      if (dataUpdatedAt >= since) continue
      if (fetchStatus === 'fetching') {
        void client.cancelQueries({ queryKey: query.queryKey, exact: true }, { silent: true })
        again.add(key[0])
      }
      if (data === undefined) continue
      client.setQueryData(query.queryKey, without(data as never, gone))
      if (isInvalidated) query.invalidate() // it is right but for these
    }
  }
  return [...again]
}
