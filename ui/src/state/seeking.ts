import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { createContext, useEffect } from 'react'
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

/** How long a list rests until what was found is counted anew, in ms. */
const rest = 1500

/** What is found, counted: anew once the list that was read at that time rests, not after each decision of several. */
export function useCounts(sought: Sought, listed = 0) {
  const counts = useQuery({
    queryKey: ['found-counts', sought.q, sought.within],
    queryFn: () => take(api.GET('/api/search/counts', { params: { query: query(sought) } })),
    enabled: Boolean(sought.q?.trim()),
    placeholderData: keepPreviousData,
    staleTime: 0, // nothing tells that they are old: they are read when they are next looked at
  })
  const { dataUpdatedAt: counted, refetch } = counts
  const old = counted > 0 && counted < listed
  useEffect(() => {
    if (!old) return
    const timer = setTimeout(() => void refetch({ cancelRefetch: false }), rest)
    return () => clearTimeout(timer)
  }, [old, listed, refetch])
  return counts
}

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
    queryKey: ['beside', q], // not looked for anew with each decision: it is dear
    queryFn: () => take(api.GET('/api/search/beside', { params: { query: { q } } })),
    enabled: q.trim() !== '',
    staleTime: 30_000,
    placeholderData: keepPreviousData,
  })

type Line = Awaited<ReturnType<typeof readLines>>[number]

const readLines = (sought: Sought, letters: number[]) =>
  take(api.GET('/api/search/lines', { params: { query: { ...query(sought), letters } } }))

/** The search whose lines rows show; undefined while one still types it. */
export const SaysWhere = createContext<Sought | undefined>(undefined)

/** How long rows are gathered that come into view together, in ms: their lines are read at once. */
const gathering = 20
let gathered:
  { sought: Sought; of: Map<number, { done: (l: Line | null) => void; fail: (e: unknown) => void }> } | undefined

function lineOf(sought: Sought, letter: number): Promise<Line | null> {
  if (gathered && gathered.sought !== sought) readGathered()
  if (!gathered) {
    gathered = { sought, of: new Map() }
    setTimeout(readGathered, gathering)
  }
  const { of } = gathered
  return new Promise((done, fail) => of.set(letter, { done, fail }))
}

function readGathered() {
  const now = gathered
  gathered = undefined
  if (!now) return
  readLines(now.sought, [...now.of.keys()]).then(
    (lines) => now.of.forEach(({ done }, letter) => done(lines.find((l) => l.letter === letter) ?? null)),
    (e: unknown) => now.of.forEach(({ fail }) => fail(e)),
  )
}

/** The line of a letter in which something was found, if it has one. */
export function useLine(sought: Sought | undefined, letter: number | undefined): Line | undefined {
  const { data } = useQuery({
    queryKey: ['found-lines', sought?.q, letter],
    queryFn: () => lineOf(sought ?? {}, letter ?? 0),
    enabled: Boolean(letter && sought?.q?.trim()),
  })
  return data ?? undefined
}

/** The search of which letters are shown; empty elsewhere. */
export const Seeking = createContext<Sought>({})

/** What in a letter was found, as it stands there. */
export const useQuotes = (sought: Sought, letter: number, open: boolean): readonly string[] =>
  useLine(open ? sought : undefined, letter)?.quotes ?? none
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
  const { word, within } = from ? viewOf(from) : {}
  if (word && within) out.push({ name: word, within })
  const one = accounts?.find((a) => a.id === account)
  if (one) out.push({ name: one.label || one.address, within: `account:"${one.address}"` })
  return out.filter((s, i) => out.findIndex((o) => o.within === s.within) === i)
}
