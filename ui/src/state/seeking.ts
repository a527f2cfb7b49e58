import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query'
import { createContext, useEffect, useMemo, useState } from 'react'
import { api, take } from '../api/client'
import { useAccounts } from '../api/queries'
import { onlyAccount } from './narrowed'
import { viewOf, type ViewName } from './viewing'

/** A search, as the address has it. */
export interface Sought {
  q?: string | undefined
  /** Within what is looked for. */
  within?: string | undefined
  /** The best come first. */
  best?: boolean | undefined
}

const query = ({ q = '', within = '', best = false }: Sought) => ({ q, within, best, cursor: '' })

/** A value once it has stood still: what is dear is not asked for at every key. */
export function useSettled<T>(value: T, ms = 300): T {
  const [settled, settle] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => settle(value), ms)
    return () => clearTimeout(timer)
  }, [value, ms])
  return settled
}

/** What is found, counted. */
export const useCounts = (sought: Sought) =>
  useQuery({
    queryKey: ['list', 'search', 'counts', sought.q, sought.within],
    queryFn: () => take(api.GET('/api/search/counts', { params: { query: query(sought) } })),
    enabled: Boolean(sought.q?.trim()),
    placeholderData: keepPreviousData,
  })

/** By what a search is narrowed, each with what it makes of the search. */
export const useFilters = (q: string) =>
  useQuery({
    queryKey: ['labels', 'filters', q],
    queryFn: () => take(api.GET('/api/search/filters', { params: { query: { q } } })),
    placeholderData: keepPreviousData,
  })

/** What is found beside letters. */
export const useBeside = (q: string) =>
  useQuery({
    queryKey: ['list', 'search', 'beside', q],
    queryFn: () => take(api.GET('/api/search/beside', { params: { query: { q } } })),
    enabled: q.trim() !== '',
    placeholderData: keepPreviousData,
  })

type Line = Awaited<ReturnType<typeof readLines>>[number]

const readLines = (sought: Sought, letters: number[]) =>
  take(api.GET('/api/search/lines', { params: { query: { ...query(sought), letters } } }))

/** Lines of letters in which something was found, by letter. */
export const FoundLines = createContext<ReadonlyMap<number, Line>>(new Map())

const atOnce = 20

/** The lines of letters, which are read some at a time. */
export function useLines(sought: Sought, letters: number[]): ReadonlyMap<number, Line> {
  const some = Array.from({ length: Math.ceil(letters.length / atOnce) }, (_, i) =>
    letters.slice(i * atOnce, (i + 1) * atOnce),
  )
  const lines = useQueries({
    queries: some.map((ids) => ({
      queryKey: ['found-lines', sought.q, ids],
      queryFn: () => readLines(sought, ids),
      enabled: Boolean(sought.q?.trim()),
    })),
    combine: (all) => all.flatMap((one) => one.data ?? []),
  })
  return useMemo(() => new Map(lines.map((l) => [l.letter, l])), [lines])
}

/** The search of which letters are shown; empty elsewhere. */
export const Seeking = createContext<Sought>({})

/** What in a letter was found, as it stands there. */
export function useQuotes(sought: Sought, letter: number, open: boolean): readonly string[] {
  const { data } = useQuery({
    queryKey: ['found-lines', sought.q, [letter]],
    queryFn: () => readLines(sought, [letter]),
    enabled: open && Boolean(sought.q?.trim()),
  })
  return data?.[0]?.quotes ?? none
}
const none: readonly string[] = []

/** What may be typed on in the box. */
export const useCompletions = (typed: string, wanted: boolean) =>
  useQuery({
    queryKey: ['search-fields', typed],
    queryFn: () => take(api.GET('/api/search/fields', { params: { query: { q: typed } } })),
    enabled: wanted && typed.trim() !== '' && !typed.startsWith('>'),
    placeholderData: keepPreviousData,
  })

/** From where one began to look: the place, if it is one, is the scope that is offered. */
let from: ViewName | undefined
export const beginAt = (path: string) => {
  if (path !== '/search') from = path.slice(1) as ViewName
}

/** The view in which one began to look. */
export const beganIn = () => from ?? 'inbox'

export interface Scope {
  name: string
  within: string
}

/** The scopes of a search: everywhere, where it was begun, the account that is shown. */
export function useScopes(): Scope[] {
  const { data: accounts } = useAccounts()
  const account = onlyAccount.use()
  const out: Scope[] = [{ name: 'Everywhere', within: '' }]
  const place = from && viewOf(from).list
  if (from && place && place !== 'sent') out.push({ name: viewOf(from).word, within: `at:${place}` })
  if (from === 'inbox') out.push({ name: 'Inbox', within: 'at:inbox' })
  const one = accounts?.find((a) => a.id === account)
  if (one) out.push({ name: one.label || one.address, within: `account:"${one.address}"` })
  return out.filter((s, i) => out.findIndex((o) => o.within === s.within) === i)
}
