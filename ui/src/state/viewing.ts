import type { Overview } from '../api/client'
import type { Place } from '../api/queries'
import { places } from '../api/tables'

interface View {
  /** What it is called. */
  word: string
  /** The action that goes there, its keys, and what help says of it. */
  go?: string
  key?: string
  what?: string
  /** Where it can be chosen: in the bar, or among what is put away. */
  among?: 'bar' | 'away'
  /** The count beside its word. */
  count?: 'inbox' | 'shallows' | 'followUps' | 'waiting' | 'ahead'
  /** For a list of letters: which, what stands beside its head, and what it says
   * when there is nothing in it. */
  list?: Exclude<Place, 'inbox'> | 'sent'
  hint?: string
  empty?: string
  /** The search of its letters: within it one looks, and by it what is there is narrowed. */
  within?: string
}

/** What the core says of a place: its name, what becomes of what is there, and that
 * nothing is. */
const saidOf = (place: Place) => {
  const { name, hint, empty } = places.find((p) => p.place === place) ?? places[0]
  return { word: name, hint, empty }
}

/** All views, by the first part of their address. */
export const views = {
  inbox: { word: 'Inbox', go: 'goInbox', key: 'v i', among: 'bar', count: 'inbox', within: 'at:inbox' },
  shallows: { word: 'Shallows', go: 'goShallows', key: 'v l', among: 'bar', count: 'shallows', within: 'at:shallows' },
  'follow-ups': {
    word: 'Follow-ups',
    go: 'goFollowUps',
    key: 'v f',
    among: 'bar',
    count: 'followUps',
    within: 'mark:tracked',
  },
  waiting: { word: 'Waiting', go: 'goWaiting', key: 'v w', among: 'bar', count: 'waiting', within: 'mark:waits' },
  ahead: { word: 'Ahead', go: 'goAhead', key: 'v a', among: 'bar', count: 'ahead', within: 'at:later' },
  'day-sheet': { word: 'Day sheet', go: 'goDaySheet', key: 'v y', among: 'bar' },
  archive: {
    ...saidOf('archive'),
    go: 'goArchive',
    key: 'v r',
    among: 'away',
    list: 'archive',
    within: 'at:archive',
  },
  sent: {
    word: 'Sent',
    go: 'goSent',
    key: 'v s',
    among: 'away',
    list: 'sent',
    within: 'at:sent',
    empty: 'You have sent nothing yet.',
  },
  drafts: { word: 'Drafts', go: 'goDrafts', key: 'v u', what: 'Drafts: unfinished letters', among: 'away' },
  bin: {
    ...saidOf('bin'),
    go: 'goBin',
    key: 'v b',
    among: 'away',
    list: 'bin',
    within: 'at:bin',
  },
  junk: {
    ...saidOf('junk'),
    go: 'goJunk',
    key: 'v j',
    among: 'away',
    list: 'junk',
    within: 'at:junk',
  },
  attached: {
    word: 'Attached',
    go: 'goAttached',
    key: 'v n',
    what: 'Attached: the files of all letters',
    among: 'away',
  },
  people: { word: 'People', go: 'goPeople', key: 'v p', among: 'away' },
  labels: { word: 'Labels', go: 'goLabels', key: 'v m', among: 'away' },
  journal: { word: 'Journal', among: 'away' },
  files: { word: 'Letters in and out', go: 'goFiles', key: 'v o' },
  times: { word: 'Times and places', go: 'goTimes', key: 'v t' },
  delivery: { word: 'Delivery', go: 'goDelivery', key: 'v d' },
  accounts: { word: 'Accounts', go: 'goAccounts', key: 'v c' },
  templates: { word: 'Templates and groups', go: 'goTemplates', key: 'v e' },
  routines: { word: 'Routines', go: 'goRoutines', key: 'v k' },
  backlog: { word: 'Backlog', go: 'goBacklog', key: 'v h' },
  rules: { word: 'Rules', go: 'goRules', key: 'v g' },
  work: { word: 'Today’s work' },
  sitting: { word: 'Sitting' },
  search: { word: 'Find' },
  letter: { word: 'Letter' },
} as const satisfies Record<string, View>

type Views = typeof views
export type ViewName = keyof Views
export type GoAction = Extract<Views[ViewName], { go: string }>['go']
/** Views without more in their address. */
export type Plain = Exclude<ViewName, 'letter' | 'search'>

const all: Record<ViewName, View> = views
const names = Object.keys(views) as ViewName[]

export const viewOf = (name: ViewName): View => all[name]
/** What the view at an address is called. */
export const viewName = (path: string) => all[path.split('/')[1] as ViewName]?.word ?? views.inbox.word
/** The views that can be chosen at a place, in their order. */
export const viewsAmong = (among: View['among']) => names.filter((n) => all[n].among === among) as Plain[]
/** The lists of letters beside the inbox. */
export const lists = names.filter((n) => all[n].list) as Extract<Plain, 'archive' | 'sent' | 'bin' | 'junk'>[]
/** The views to which an action goes, with it. */
export const goings = names.flatMap((n) => (all[n].go ? [[all[n].go as GoAction, n as Plain] as const] : []))
/** The count of a view. */
export const countOf = (name: ViewName, overview: Overview | undefined) => {
  const count = all[name].count
  return count && overview ? overview[count] : ''
}
