import {
  infiniteQueryOptions,
  keepPreviousData,
  QueryClient,
  queryOptions,
  useInfiniteQuery,
  useQueries,
  useQuery,
  type InfiniteData,
} from '@tanstack/react-query'
import type { places } from './tables'
import {
  api,
  came,
  take,
  Unreachable,
  type Account,
  type LetterFile,
  type BoardFilter,
  type Conversation,
  type Day,
  type Overview,
  type Plan,
  type Row,
  type Session,
  type ThroughFields,
  type Writing,
} from './client'
import { useSettled } from './settled'

export const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: Infinity, // the stream of changes says what is stale
      retry: (count, error) => error instanceof Unreachable && count < 20,
      retryDelay: (count) => Math.min(500 * 2 ** count, 5000),
      networkMode: 'always',
      refetchOnWindowFocus: false,
    },
  },
})

export type Place = Extract<(typeof places)[number], { view: true }>['place']
export type ListName = Place | 'sent' | 'search'
export interface ListKey {
  name: ListName
  oldest?: boolean
  account?: number
  q?: string
  /** Within what is looked for, and whether the best come first. */
  within?: string
  best?: boolean
}
export type Problem = { from: number; to: number; says: string }
export type ListPage = { rows: Row[]; next?: string; problems?: Problem[]; read?: string; short?: boolean }
export type ListData = InfiniteData<ListPage, string>

function page(
  { name, oldest, account, q = '', within = '', best = false }: ListKey,
  cursor: string,
  signal: AbortSignal,
): Promise<ListPage> {
  if (name === 'sent') return take(api.GET('/api/sent', { params: { query: { cursor } } }))
  // What was typed on is no longer looked for.
  if (name === 'search') return take(api.GET('/api/search', { params: { query: { q, within, best, cursor } }, signal }))
  return take(api.GET('/api/places/{place}', { params: { path: { place: name }, query: { cursor, oldest, account } } }))
}

/** The first page of the inbox, which came with the page. */
function firstPage({ name, oldest = false, account }: ListKey): ListData | undefined {
  const first = name === 'inbox' && !account && came<ListPage>(`/api/places/inbox?cursor=&oldest=${oldest}`)
  return first ? { pages: [first], pageParams: [''] } : undefined
}

/** What all lists of letters are known by: other readings that go stale with them have no rows of letters. */
export const letterLists = ['list', 'letters'] as const

const listQuery = (key: ListKey) =>
  infiniteQueryOptions({
    queryKey: [...letterLists, key.name, key],
    queryFn: ({ pageParam, signal }) => page(key, pageParam, signal),
    initialData: () => firstPage(key),
    initialPageParam: '',
    getNextPageParam: (last: ListPage) => last.next || undefined,
    placeholderData: key.name === 'search' ? (before: ListData | undefined) => before : undefined,
  })

export const useList = (key: ListKey) => useInfiniteQuery(listQuery(key))

/** Changes rows of letters in all lists that were read. */
export const editRows = (edit: (r: Row) => Row) =>
  client.setQueriesData<ListData>(
    { queryKey: letterLists },
    (data) => data && { ...data, pages: data.pages.map((p) => ({ ...p, rows: p.rows.map(edit) })) },
  )

/** Looks for something before it is shown. */
export const lookAhead = (q: string, within = '', best = false) =>
  void client.prefetchInfiniteQuery(listQuery({ name: 'search', q, within, best }))

export const conversationQuery = (id: number) => ({
  queryKey: ['conversation', id],
  queryFn: () => take(api.GET('/api/conversations/{id}', { params: { path: { id } } })),
  initialData: () => came<Conversation>(`/api/conversations/${id}`),
})
export const useConversation = (id: number | undefined) =>
  useQuery({ ...conversationQuery(id ?? 0), enabled: id !== undefined })

export const useSession = () =>
  useQuery({
    queryKey: ['session'],
    queryFn: () => take(api.GET('/api/session')),
    initialData: () => came<Session>('/api/session'),
  })
export const useOverview = () =>
  useQuery({
    queryKey: ['overview'],
    queryFn: () => take(api.GET('/api/overview')),
    initialData: () => came<Overview>('/api/overview'),
    staleTime: 30_000,
  })
/** The day line of today, or of a day that is some days away. */
export const useDay = (away = 0) =>
  useQuery({
    queryKey: ['day', away],
    queryFn: () => take(api.GET('/api/day', { params: { query: { away } } })),
    initialData: () => came<Day>(`/api/day?away=${away}`),
    refetchInterval: 60_000,
    placeholderData: (before) => before,
  })
/** Plan, state and what is let through; account 0 is the common plan. */
export const useDelivery = (account: number) =>
  useQuery({
    queryKey: ['delivery', account],
    queryFn: () => take(api.GET('/api/delivery', { params: { query: { account } } })),
    refetchInterval: 60_000,
    placeholderData: (before) => before,
  })
export const usePlanExamples = (wanted: boolean) =>
  useQuery({ queryKey: ['delivery', 'examples'], queryFn: () => take(api.GET('/api/plan/examples')), enabled: wanted })
/** What a plan would do. */
export const usePlanPreview = (account: number, plan: Plan | undefined) =>
  useQuery({
    queryKey: ['delivery', 'preview', account, plan],
    queryFn: () => take(api.POST('/api/plan/preview', { body: { account, plan } })),
    enabled: plan !== undefined,
    placeholderData: (before) => before,
    retry: false,
  })
export const useThroughPreview = (entry: ThroughFields | undefined) =>
  useQuery({
    queryKey: ['delivery', 'through', entry],
    queryFn: () => take(api.POST('/api/through/preview', { body: entry ?? { kind: 'answer', value: '', until: '' } })),
    enabled: entry !== undefined,
    placeholderData: (before) => before, // the buttons below stay where they are
    retry: false,
  })
export const useAccounts = () =>
  useQuery({
    queryKey: ['accounts'],
    queryFn: () => take(api.GET('/api/accounts')),
    initialData: () => came<Account[]>('/api/accounts'),
  })
export const useRemotes = () =>
  useQuery({ queryKey: ['accounts', 'remotes'], queryFn: () => take(api.GET('/api/remotes')) })
export const useSignIns = () =>
  useQuery({ queryKey: ['sign-ins'], queryFn: () => take(api.GET('/api/sign-ins')), staleTime: Infinity })
/** How far somebody is who has just begun. */
export const useBeginning = (wanted: boolean) =>
  useQuery({
    queryKey: ['overview', 'beginning'],
    queryFn: () => take(api.GET('/api/beginning')),
    enabled: wanted,
    staleTime: 5000,
  })
export const useLabels = () => useQuery({ queryKey: ['labels'], queryFn: () => take(api.GET('/api/labels')) })
export type Layout = 'due' | 'stage' | 'priority' | 'person' | 'project' | 'context' | 'order'
export interface Arranged {
  by: Layout
  closed: boolean
  filter: BoardFilter
}
export const boardQuery = (q: Arranged) => ({
  queryKey: ['follow-ups', 'board', q],
  queryFn: () => take(api.POST('/api/board', { body: q })),
  staleTime: 30_000, // what changes is told of; only the clock is not
  structuralSharing: false, // see whole
})
export const useBoard = (q: Arranged) => useQuery({ ...boardQuery(q), placeholderData: (before) => before })
/** Follow-ups by their ids, a block at a time, as they come into sight. */
export const useBlocks = (blocks: number[][]) =>
  useQueries({
    queries: blocks.map((ids) => ({
      queryKey: ['follow-ups', 'cards', ids],
      queryFn: () => take(api.POST('/api/cards', { body: { ids } })),
      staleTime: 30_000,
    })),
  })
export const useFollowUp = (id: number | undefined) =>
  useQuery({
    queryKey: ['follow-ups', 'one', id],
    queryFn: () => take(api.GET('/api/follow-ups/{id}', { params: { path: { id: id ?? 0 } } })),
    enabled: id !== undefined,
    retry: false,
    placeholderData: (before) => (before?.id === id ? before : undefined),
  })
export const useFit = () => useQuery({ queryKey: ['follow-ups', 'fit'], queryFn: () => take(api.GET('/api/fit')) })
/** What a letter proposes for a follow-up; 0 for none. */
export const useProposed = (conversation: number) =>
  useQuery({
    queryKey: ['follow-ups', 'proposed', conversation],
    queryFn: () => take(api.GET('/api/proposals/{id}', { params: { path: { id: conversation } } })),
  })
export const useCapture = (line: string) =>
  useQuery({
    queryKey: ['capture', line],
    queryFn: () => take(api.POST('/api/capture/read', { body: { line } })),
    placeholderData: (before) => before,
    staleTime: 10_000,
    gcTime: 60_000,
  })
/** Lists that are read whole, of ten thousand rows: to compare each with what it was
 * takes longer than to draw those in sight anew. */
const whole = { structuralSharing: false }
export const useWaiting = (settled: boolean) =>
  useQuery({
    ...whole,
    queryKey: ['waiting', settled],
    queryFn: () => take(api.GET('/api/waiting', { params: { query: { settled } } })),
  })
export const useDaySheet = (date: string) =>
  useQuery({
    queryKey: ['day', 'sheet', date],
    queryFn: () => take(api.GET('/api/day-sheet', { params: { query: { date } } })),
    placeholderData: keepPreviousData,
  })
export const daysOf = (of: 'week' | 'month' | 'year', date: string) =>
  queryOptions({
    queryKey: ['day', 'days', of, date],
    queryFn: () => take(api.GET('/api/days', { params: { query: { of, date } } })),
  })
export const useDays = (of: 'week' | 'month' | 'year', date: string) =>
  useQuery({ ...daysOf(of, date), placeholderData: keepPreviousData })
export const useSince = () =>
  useQuery({ queryKey: ['day', 'since'], queryFn: () => take(api.GET('/api/since')), staleTime: 3_600_000 })
export const useLabelViews = () =>
  useQuery({ queryKey: ['labels', 'all'], queryFn: () => take(api.GET('/api/labels/all')) })
export interface AttachedAsk {
  sort?: LetterFile['sort'] | undefined
  near: string
  order: 'newest' | 'largest' | 'name' | 'sender'
}
export const useAttached = (ask: AttachedAsk) =>
  useInfiniteQuery({
    queryKey: ['list', 'attached', ask],
    queryFn: ({ pageParam }) => take(api.GET('/api/attached', { params: { query: { ...ask, from: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next,
    placeholderData: (before) => before,
  })
export const usePreview = (letter: number, part: number) =>
  useQuery({
    queryKey: ['letter', letter, 'preview', part],
    queryFn: () =>
      take(api.GET('/api/letters/{id}/parts/{index}/preview', { params: { path: { id: letter, index: part } } })),
    staleTime: Infinity,
  })
export const useCorrespondents = (near: string) =>
  useQuery({
    queryKey: ['contacts', 'all', near],
    queryFn: () => take(api.GET('/api/contacts', { params: { query: { near } } })),
    placeholderData: (before) => before,
  })
export const useCorrespondent = (address: string) =>
  useQuery({
    queryKey: ['contacts', 'of', address],
    queryFn: () => take(api.GET('/api/contacts/of', { params: { query: { address } } })),
    enabled: address !== '',
    placeholderData: (before) => before,
  })
export const useErasing = (address: string) =>
  useQuery({
    queryKey: ['contacts', 'erasing', address],
    queryFn: () => take(api.GET('/api/contacts/erasing', { params: { query: { address } } })),
  })
export const useSearches = (counted: boolean) =>
  useQuery({
    queryKey: ['searches', counted],
    queryFn: () => take(api.GET('/api/searches', { params: { query: { counted } } })),
  })
export const useShallows = () =>
  useQuery({ queryKey: ['shallows'], queryFn: () => take(api.GET('/api/shallows')), ...whole })
export const useCorrections = () =>
  useQuery({ queryKey: ['corrections'], queryFn: () => take(api.GET('/api/corrections')) })
export const useJunk = (since: number) =>
  useQuery({
    queryKey: ['junk', since],
    queryFn: () => take(api.GET('/api/junk', { params: { query: { since } } })),
  })
export const useClearing = () => useQuery({ queryKey: ['clearing'], queryFn: () => take(api.GET('/api/clearing')) })
export const useSortedIn = (entry: number) =>
  useQuery({
    queryKey: ['journal', 'sorted', entry],
    queryFn: () => take(api.GET('/api/journal/{id}/sorted', { params: { path: { id: entry } } })),
  })
export const useFirstSorted = () =>
  useQuery({ queryKey: ['first-sorted'], queryFn: () => take(api.GET('/api/first-sorted')) })
export const useAhead = () =>
  useQuery({ queryKey: ['ahead', 'list'], queryFn: () => take(api.GET('/api/ahead')), ...whole })
export const useCatchUp = () =>
  useQuery({ queryKey: ['catch-up'], queryFn: () => take(api.GET('/api/catch-up')), staleTime: 60_000 })
export const useRang = () => useQuery({ queryKey: ['rang'], queryFn: () => take(api.GET('/api/reminders')) })
export const useSpots = () => useQuery({ queryKey: ['spots'], queryFn: () => take(api.GET('/api/spots')) })
export const useSettings = () => useQuery({ queryKey: ['settings'], queryFn: () => take(api.GET('/api/settings')) })
export const useSpread = (on: number[], over: 'week' | 'next-week' | 'two-weeks' | undefined) =>
  useQuery({
    queryKey: ['spread', over, on],
    queryFn: () => take(api.POST('/api/spread', { body: { on, over: over ?? 'week' } })),
    enabled: over !== undefined,
    staleTime: 10_000,
    gcTime: 60_000,
  })
/** The note that would tell senders when to expect an answer. */
export const useTell = (on: number[], when: string) =>
  useQuery({
    queryKey: ['tell', when, on],
    queryFn: () => take(api.POST('/api/tell', { body: { on, when } })),
    retry: false,
    gcTime: 0,
  })
/** What the answered letter asks, and what of it is covered so far. */
export const useAsks = (w: Writing) => {
  const { kind, from, to, subject, text, letter, covered } = w
  const asked = useSettled(text, 180)
  return useQuery({
    queryKey: ['asks', letter, asked, covered],
    queryFn: () => take(api.POST('/api/asks', { body: { kind, from, to, subject, text: asked, letter, covered } })),
    enabled: kind === 'answer' && Boolean(letter),
    placeholderData: (before) => before,
    gcTime: 10_000,
  })
}
/** Short answers that are proposed to the letter that is answered. */
export const useSuggestions = (w: Writing) =>
  useQuery({
    queryKey: ['suggestions', w.letter],
    queryFn: () =>
      take(
        api.POST('/api/suggestions', {
          body: { kind: w.kind, from: w.from, to: w.to, subject: '', text: '', letter: w.letter },
        }),
      ),
    enabled: w.kind === 'answer' && Boolean(w.letter),
    gcTime: 60_000,
  })
/** Templates, and groups of receivers. */
export const useTemplates = () => useQuery({ queryKey: ['templates'], queryFn: () => take(api.GET('/api/templates')) })
/** The files of a draft, and how much of each has come. */
export const useFiles = (draft: string, wanted: boolean) =>
  useQuery({
    queryKey: ['files', draft],
    queryFn: () => take(api.GET('/api/drafts/{id}/files', { params: { path: { id: draft } } })),
    enabled: wanted,
    gcTime: 0,
  })
export const useDrafts = () => useQuery({ queryKey: ['drafts'], queryFn: () => take(api.GET('/api/drafts')) })
export const useRoutines = () => useQuery({ queryKey: ['routines'], queryFn: () => take(api.GET('/api/routines')) })
export const useBacklog = () => useQuery({ queryKey: ['backlog'], queryFn: () => take(api.GET('/api/backlog')) })
/** The letters of a heap of the backlog. */
export const heapQuery = (key: string) => ({
  queryKey: ['backlog', 'heap', key],
  queryFn: () => take(api.GET('/api/backlog/heap', { params: { query: { key } } })),
})
export const useRules = () => useQuery({ queryKey: ['rules'], queryFn: () => take(api.GET('/api/rules')) })
/** What a rule did lately. */
export const useRuleDid = (id: number) =>
  useQuery({
    queryKey: ['rules', 'did', id],
    queryFn: () => take(api.GET('/api/rules/{id}/did', { params: { path: { id } } })),
  })
export const useSitting = () => useQuery({ queryKey: ['sitting'], queryFn: () => take(api.GET('/api/sitting')) })
export const useJournal = (q: string, day: string) =>
  useInfiniteQuery({
    queryKey: ['journal', q, day],
    initialPageParam: 0,
    queryFn: ({ pageParam: before }) =>
      take(api.GET('/api/journal', { params: { query: { before, ...(q ? { q } : {}), ...(day ? { day } : {}) } } })),
    getNextPageParam: (page) => page.at(-1)?.entry,
    placeholderData: (before) => before,
  })
/** What a phrase is asked for: the conversation that is to come back, and how
 * many are; plain where only a time is wanted. */
export interface PhraseFor {
  for?: number
  count?: number
  plain?: boolean
  /** What else than a time may be typed. */
  as?: 'span' | 'appointment' | 'times' | 'remind' | 'recurs'
  /** What a reminder may be reckoned from. */
  due?: string
}
export const usePhrase = (phrase: string, about: PhraseFor, enabled = true) =>
  useQuery({
    enabled,
    queryKey: ['phrase', phrase, about],
    queryFn: () => take(api.GET('/api/phrases', { params: { query: { phrase, ...about } } })),
    placeholderData: (before) => before,
    staleTime: 10_000,
    gcTime: 60_000,
  })
