import { toast } from 'sonner'
import {
  api,
  errorText,
  newId,
  take,
  Trouble,
  Unreachable,
  type BoardFilter,
  type CheckItem,
  type Entry,
  type HoldingNote,
  type Named,
  type Notices,
  type Plan,
  type Row,
  type Settings,
  type ThroughFields,
  type Weights,
  type Writing,
} from '../api/client'
import { client, type Layout, type ListData } from '../api/queries'
import { refresh, refreshFor } from '../api/live'
import { again, type Again } from './again'
import { setOnline } from './online'
import { mine as minePerPerson } from './mine'
import { watched } from './store'
import type { Target } from './desk'
import { failed } from './failed'

/** Everything a person can do, as it is sent. Each carries its id, so that
 * sending it twice does it once. */
export type Command =
  | { path: 'decide'; body: DecideBody; hides?: number[] }
  | {
      path: 'mark'
      body: { on: number[]; mark: 'star' | 'label' | 'quiet'; value?: string; off?: boolean }
      hides?: number[]
    }
  | { path: 'flag'; body: { on: Target[]; when?: string } }
  | { path: 'undo'; body: { entry?: number; sure?: boolean } }
  | { path: 'redo'; body: object }
  | { path: 'send'; body: SendBody; hides?: number[] }
  | { path: 'hold'; body: { until?: string; account?: number; everything?: boolean } }
  | { path: 'let-in'; body: { open?: boolean; account?: number } }
  | { path: 'put-plan'; body: { account?: number; plan?: Plan } }
  | { path: 'add-through'; body: ThroughFields }
  | { path: 'end-through'; id: number; body: object }
  | { path: 'let-through'; id: number; body: object }
  | { path: 'holding-note'; body: HoldingNote }
  | { path: 'notices'; body: Notices }
  | { path: 'new-follow-up'; body: FollowUpFields & { on?: Target[] } }
  | { path: 'edit-follow-up'; id: number; body: FollowUpFields & { version?: number } }
  | { path: 'edit-follow-ups'; body: FollowUpFields & { on: number[] } }
  | { path: 'skip-follow-up'; id: number; body: object }
  | { path: 'import-follow-ups'; body: { data: string } }
  | { path: 'renew-follow-intake'; body: object }
  | { path: 'new-appointment'; body: AppointmentFields & { conversation?: number } }
  | { path: 'edit-appointment'; id: number; body: AppointmentFields }
  | { path: 'cancel-appointment'; id: number; body: { all?: boolean } }
  | { path: 'quiet-appointment'; id: number; body: object }
  | {
      path: 'answer-invitation'
      letter: number
      body: { reply: 'accepted' | 'declined' | 'tentative'; comment?: string; propose?: string }
    }
  | { path: 'renew-feed'; body: { remove?: boolean } }
  | { path: 'wait-follow-up'; id: number; body: { until: string } }
  | { path: 'capture-follow-up'; body: { line: string; on?: Target[] } }
  | { path: 'fit-follow-ups'; body: { moves: { id: number; to: string }[] } }
  | { path: 'rename-follow-ups'; body: { field: 'project' | 'context' | 'assignee'; was: string; now: string } }
  | { path: 'weigh-follow-ups'; body: { weights?: Weights } }
  | { path: 'new-follow-stage'; body: StageFields }
  | { path: 'edit-follow-stage'; id: number; body: StageFields }
  | { path: 'keep-follow-filter'; body: { name: string; by: Layout; filter: BoardFilter } }
  | { path: 'drop-follow-filter'; id: number; body: object }
  | { path: 'reminder'; id: number; body: { until?: string } }
  | { path: 'waiting'; id: number; body: { state?: 'open' | 'met' | 'dropped'; until?: string; sure?: boolean } }
  | { path: 'drop-draft'; draft: string; body: object }
  | { path: 'split'; letter: number; body: object }
  | { path: 'receipt'; letter: number; body: { send: boolean } }
  | { path: 'pictures'; body: { email: string; load: boolean } }
  | { path: 'new-account'; body: { address: string } & AccountFields }
  | { path: 'edit-account'; id: number; body: AccountFields }
  | { path: 'ahead'; body: { action: 'move' | 'cancel' | 'fetch'; on: EntryRef[]; when?: string; sure?: boolean } }
  | { path: 'new-spot'; body: { name: string } }
  | { path: 'edit-spot'; id: number; body: { name?: string; remove?: boolean } }
  | { path: 'be-at'; body: { spot: number } }
  | { path: 'settings'; body: SettingsFields }

export type EntryRef = Pick<Entry, 'kind' | 'id' | 'version'>
export type SettingsFields = Partial<Omit<Settings, 'times'>> & { times?: Named[] }

export interface AccountFields {
  name?: string
  label?: string
  signature?: string
  colour?: string
  shape?: string
  position?: number
  alive?: boolean
}
export interface DecideBody {
  kind: 'done' | 'later' | 'follow-up' | 'file' | 'bin' | 'junk' | 'inbox'
  on: Target[]
  when?: string
  each?: { id: number; phrase: string }[]
  stay?: boolean
  labels?: string[]
  /** A note to the senders of what is put off. */
  tell?: string
  /** Put off all the same what was put off often already. */
  sure?: boolean
  followUp?: FollowUpFields
}
export interface SendBody {
  draft?: string
  conversation?: number
  saw?: number
  version?: number
  writing: Writing
}
export interface FollowUpFields {
  title?: string
  notes?: string
  due?: string
  priority?: 'urgent' | 'high' | 'normal' | 'low'
  status?: 'open' | 'under-way' | 'waiting' | 'done' | 'dropped'
  start?: string
  stage?: number
  assignee?: string
  project?: string
  context?: string
  recurs?: string
  checklist?: CheckItem[]
  remind?: string[]
  estimate?: number
  lane?: { by: Layout; key: string }
}
export interface AppointmentFields {
  title?: string
  when?: string
  place?: string
  notes?: string
  attendees?: string[]
  remind?: number
  free?: boolean
  recurs?: string
}
export interface StageFields {
  name?: string
  colour?: string
  shape?: string
  position?: number
  most?: number
  remove?: boolean
}

interface Queued {
  id: string
  command: Command
}

/** What became of a command: a title for the person, and what an undo gave back. */
export interface Outcome {
  title: string
  left?: string[]
  draft?: string
  conversations?: number[]
  new?: number[]
  now?: Target[]
  leavesAt?: string
  followUp?: number
  next?: number[]
  over?: { field: string; was: string }[]
}

const queue = minePerPerson<Command>('queue')
/** Conversations decided in this page, hidden from lists before the server says so. */
const hidden = watched<ReadonlyMap<number, string>>(new Map())
const mine = new Set<string>()
const results = new Map<string, (outcome: Outcome | undefined) => void>()
let sending = false

export const useQueued = () => queue.use().length
/** How many letters have left the inbox in this page, and not yet on the server. */
export const useQueuedOut = () =>
  queue.use().reduce((n, { value: c }) => {
    if (c.path !== 'decide' || !c.hides) return n
    return n + c.body.on.filter((t) => t.place === 'inbox').length
  }, 0)
export const useHidden = hidden.use
export const wasMine = (id: string) => mine.has(id)

/** Carries out a command: shown at once, sent in order, kept until the server
 * has it. Resolves with its outcome, or undefined if it was refused. */
export function carryOut(command: Command): Promise<Outcome | undefined> {
  const id = newId()
  if (command.path !== 'undo') further.set(undefined)
  mine.add(id)
  if ('hides' in command && command.hides) {
    const ids = command.hides
    hidden.set((was) => new Map([...was, ...ids.map((c) => [c, id] as const)]))
  }
  queue.put(id, command)
  const done = new Promise<Outcome | undefined>((resolve) => results.set(id, resolve))
  void resend()
  return done
}

/** Sends what waits, in order. */
export async function resend() {
  if (sending) return
  sending = true
  try {
    await queue.adopt()
    for (let entry = queue.get()[0]; entry; entry = queue.get()[0]) {
      const next = { id: entry.id, command: entry.value }
      let outcome: Outcome | undefined
      try {
        outcome = await send(next)
      } catch (e) {
        if (e instanceof Trouble && e.kind === 'somebody-else') {
          location.reload() // another page has signed in as somebody else; what waits here stays here
          return
        }
        if (e instanceof Trouble && e.kind === 'signed-out') return // it is sent once they have signed in again
        if (e instanceof Unreachable || (e instanceof Trouble && e.status >= 502)) {
          setOnline(false)
          setTimeout(() => void resend(), 1500)
          return
        }
        refused(next, e)
      }
      setOnline(true)
      const id = next.id
      queue.drop(id)
      if (outcome) settled(next, outcome)
      results.get(id)?.(outcome)
      results.delete(id)
    }
  } finally {
    sending = false
  }
}

/** Conversations as the server takes them. */
const seen = (on: Target[]) => on.map(({ id, last, version }) => ({ id, last, version }))

/** What of this page's is done to the same conversations from now on follows on
 * what the server has just done, and is not taken for a second opinion. */
function follow(now: Target[]) {
  const versions = new Map(now.map((t) => [t.id, t.version]))
  if (versions.size === 0) return
  const on = (t: Target) => (versions.has(t.id) ? { ...t, version: versions.get(t.id) } : t)
  for (const { id, value: c } of queue.get()) {
    if (c.path === 'decide' && c.body.on.some((t) => versions.has(t.id)))
      queue.put(id, { ...c, body: { ...c.body, on: c.body.on.map(on) } })
  }
  client.setQueriesData<ListData>(
    { queryKey: ['list'] },
    (data) =>
      data && {
        ...data,
        pages: data.pages.map((p) => ({
          ...p,
          rows: p.rows.map((r) => (versions.has(r.id) ? { ...r, version: versions.get(r.id) ?? r.version } : r)),
        })),
      },
  )
}

function send({ id, command: c }: Queued): Promise<Outcome> {
  const body = { ...c.body, command: id }
  switch (c.path) {
    case 'decide':
      return take(api.POST('/api/decisions', { body: { ...c.body, on: seen(c.body.on), command: id } }))
    case 'mark':
      return take(api.POST('/api/marks', { body: { ...c.body, command: id } }))
    case 'flag':
      return take(api.POST('/api/flags', { body: { ...c.body, on: seen(c.body.on), command: id } }))
    case 'undo':
      return take(api.POST('/api/undo', { body }))
    case 'redo':
      return take(api.POST('/api/redo', { body: { command: id } }))
    case 'send':
      return take(api.POST('/api/letters', { body: { ...c.body, command: id } }))
    case 'hold':
      return take(api.POST('/api/hold', { body }))
    case 'let-in':
      return take(api.POST('/api/let-in', { body }))
    case 'put-plan':
      return take(api.POST('/api/plan', { body: { ...c.body, command: id } }))
    case 'add-through':
      return take(api.POST('/api/through', { body: { ...c.body, command: id } }))
    case 'end-through':
      return take(api.POST('/api/through/{id}/end', { params: { path: { id: c.id } }, body: { command: id } }))
    case 'let-through':
      return take(api.POST('/api/through/{id}/let-in', { params: { path: { id: c.id } }, body: { command: id } }))
    case 'holding-note':
      return take(api.POST('/api/holding-note', { body: { ...c.body, command: id } }))
    case 'notices':
      return take(api.POST('/api/notices', { body: { ...c.body, command: id } }))
    case 'new-follow-up':
      return take(api.POST('/api/follow-ups', { body: { ...c.body, on: seen(c.body.on ?? []), command: id } }))
    case 'edit-follow-up':
      return take(
        api.PATCH('/api/follow-ups/{id}', { params: { path: { id: c.id } }, body: { ...c.body, command: id } }),
      )
    case 'edit-follow-ups':
      return take(api.PATCH('/api/follow-ups', { body: { ...c.body, command: id } }))
    case 'skip-follow-up':
      return take(api.POST('/api/follow-ups/{id}/skip', { params: { path: { id: c.id } }, body: { command: id } }))
    case 'import-follow-ups':
      return take(api.POST('/api/tasks', { body: { ...c.body, command: id } }))
    case 'renew-follow-intake':
      return take(api.POST('/api/intake', { body: { command: id } }))
    case 'new-appointment':
      return take(api.POST('/api/appointments', { body: { ...c.body, command: id } }))
    case 'edit-appointment':
      return take(
        api.PATCH('/api/appointments/{id}', { params: { path: { id: c.id } }, body: { ...c.body, command: id } }),
      )
    case 'cancel-appointment':
      return take(
        api.POST('/api/appointments/{id}/cancel', {
          params: { path: { id: c.id } },
          body: { ...c.body, command: id },
        }),
      )
    case 'quiet-appointment':
      return take(api.POST('/api/appointments/{id}/seen', { params: { path: { id: c.id } }, body: { command: id } }))
    case 'answer-invitation':
      return take(
        api.POST('/api/letters/{id}/invitation', {
          params: { path: { id: c.letter } },
          body: { ...c.body, command: id },
        }),
      )
    case 'renew-feed':
      return take(api.POST('/api/feed', { body: { ...c.body, command: id } }))
    case 'wait-follow-up':
      return take(
        api.POST('/api/follow-ups/{id}/wait', { params: { path: { id: c.id } }, body: { ...c.body, command: id } }),
      )
    case 'capture-follow-up':
      return take(api.POST('/api/capture', { body: { ...c.body, on: seen(c.body.on ?? []), command: id } }))
    case 'fit-follow-ups':
      return take(api.POST('/api/fit', { body: { ...c.body, command: id } }))
    case 'rename-follow-ups':
      return take(api.POST('/api/names', { body: { ...c.body, command: id } }))
    case 'weigh-follow-ups':
      return take(api.PUT('/api/weights', { body: { ...c.body, command: id } }))
    case 'new-follow-stage':
      return take(api.POST('/api/stages', { body: { ...c.body, command: id } }))
    case 'edit-follow-stage':
      return take(api.PATCH('/api/stages/{id}', { params: { path: { id: c.id } }, body: { ...c.body, command: id } }))
    case 'keep-follow-filter':
      return take(api.POST('/api/filters', { body: { ...c.body, command: id } }))
    case 'drop-follow-filter':
      return take(api.POST('/api/filters/{id}/drop', { params: { path: { id: c.id } }, body: { command: id } }))
    case 'reminder':
      return take(api.POST('/api/reminders/{id}', { params: { path: { id: c.id } }, body }))
    case 'waiting':
      return take(api.PATCH('/api/waiting/{id}', { params: { path: { id: c.id } }, body }))
    case 'drop-draft':
      return take(api.POST('/api/drafts/{id}/drop', { params: { path: { id: c.draft } }, body }))
    case 'split':
      return take(api.POST('/api/letters/{id}/split', { params: { path: { id: c.letter } }, body }))
    case 'receipt':
      return take(
        api.POST('/api/letters/{id}/receipt', { params: { path: { id: c.letter } }, body: { ...c.body, command: id } }),
      )
    case 'pictures':
      return take(api.POST('/api/senders/pictures', { body: { ...c.body, command: id } }))
    case 'new-account':
      return take(api.POST('/api/accounts', { body: { ...c.body, command: id } }))
    case 'edit-account':
      return take(api.PATCH('/api/accounts/{id}', { params: { path: { id: c.id } }, body }))
    case 'ahead':
      return take(api.POST('/api/ahead', { body: { ...c.body, command: id } }))
    case 'new-spot':
      return take(api.POST('/api/spots', { body: { ...c.body, command: id } }))
    case 'edit-spot':
      return take(api.PATCH('/api/spots/{id}', { params: { path: { id: c.id } }, body }))
    case 'be-at':
      return take(api.POST('/api/whereabouts', { body: { ...c.body, command: id } }))
    case 'settings':
      return take(api.PATCH('/api/settings', { body: { ...c.body, command: id } }))
  }
}

/** A refusal puts back what was hidden and says why. */
function refused({ id, command }: Queued, e: unknown) {
  show(id)
  const meant = { ...command, body: { ...command.body, sure: true } } as Command
  if (e instanceof Trouble && (e.kind === 'put-off-again' || e.kind === 'decided-since')) {
    const asked: Again = { kind: e.kind, reason: e.message, on: e.on, command: meant }
    again.set((was) => [...was, asked])
  } else if (e instanceof Trouble && e.kind === 'undo-further') {
    further.set(meant)
    toast(e.message, {
      id: 'further',
      description: 'Press the key once more to undo that too.',
      duration: 15_000,
      action: { label: 'Undo it too', onClick: () => void undo() },
      onAutoClose: () => further.set(undefined),
      onDismiss: () => further.set(undefined),
    })
  } else failed(errorText(e, 'That was not done.'))
  refresh(['list', 'conversation', 'overview'])
  if (command.path.includes('follow')) refresh(['follow-ups'])
}

function show(id: string) {
  hidden.set((was) => new Map([...was].filter(([, command]) => command !== id)))
}

/** The server has it: the rows leave the cached lists for good. */
function settled({ id, command: c }: Queued, outcome: Outcome) {
  if (c.path === 'decide' || c.path === 'send' || (c.path === 'mark' && c.hides)) {
    if (!c.hides) refresh(['list'])
    const back = new Set(outcome.new ?? [])
    const gone = new Set((c.hides ?? []).filter((one) => !back.has(one)))
    client.setQueriesData<ListData>({ queryKey: ['list'] }, (data) => data && without(data, gone))
    // Other lists are read again when they are next looked at.
    void client.invalidateQueries({ queryKey: ['list'], refetchType: 'none' })
    follow(outcome.now ?? [])
    show(id)
    for (const text of outcome.left ?? []) toast(text)
    if (back.size > 0) {
      toast('A newer letter has come since. It is back in the inbox.')
      refresh(['list'])
    }
    refresh([
      'overview',
      'day',
      'ahead',
      'follow-ups',
      'waiting',
      'drafts',
      'conversation',
      'replies',
      'journal',
      'spots',
    ])
  } else if (c.path === 'undo' || c.path === 'redo') {
    for (const text of outcome.left ?? []) toast(text)
    refresh([
      'list',
      'replies',
      'overview',
      'day',
      'ahead',
      'follow-ups',
      'waiting',
      'drafts',
      'conversation',
      'letter',
      'journal',
      'accounts',
      'imports',
      'settings',
      'spots',
      'phrase',
    ])
  } else {
    refreshFor(c.path.includes('follow') || c.path === 'reminder' || c.path === 'flag' ? 'followup' : 'conversation')
    refresh(['overview', 'waiting', 'day', 'drafts'])
    if (c.path.includes('appointment') || c.path === 'answer-invitation')
      refresh(['ahead', 'day', 'follow-ups', 'phrase', 'conversation', 'letter', 'list'])
    if (c.path === 'renew-feed') refresh(['settings'])
    if (c.path === 'renew-follow-intake') refresh(['settings'])
    if (c.path === 'split') refresh(['list', 'conversation', 'journal'])
    if (c.path === 'pictures') refresh(['letter', 'conversation'])
    if (c.path === 'ahead') refresh(['ahead', 'list', 'follow-ups', 'conversation'])
    if (c.path === 'new-spot' || c.path === 'edit-spot' || c.path === 'be-at') {
      refresh(['spots', 'phrase', 'ahead', 'list', 'conversation'])
    }
    if (c.path === 'settings') refresh(['settings', 'phrase', 'ahead', 'list', 'follow-ups', 'waiting'])
    if (c.path === 'new-account' || c.path === 'edit-account') refresh(['accounts', 'list', 'conversation'])
  }
}

function without(data: ListData, gone: Set<number>): ListData {
  if (gone.size === 0) return data
  return { ...data, pages: data.pages.map((p) => ({ ...p, rows: p.rows.filter((r: Row) => !gone.has(r.id)) })) }
}

/** The undo that was asked about, as it is once it is meant. */
const further = watched<Command | undefined>(undefined)

/** Takes back the latest step, or the one named, and says so. */
export async function undo(entry?: number) {
  const asked = further.get()
  if (asked) toast.dismiss('further')
  further.set(undefined)
  const outcome = await carryOut(entry ? { path: 'undo', body: { entry } } : (asked ?? { path: 'undo', body: {} }))
  if (outcome) toast(outcome.title)
  return outcome
}

/** Does again what was taken back last, and says so. */
export async function redo() {
  const outcome = await carryOut({ path: 'redo', body: {} })
  if (outcome) toast(outcome.title)
  return outcome
}

/** Says what became of a command, and offers to take it back. */
export function told(outcome: Outcome | undefined) {
  if (outcome) toast(outcome.title, { action: { label: 'Undo', onClick: () => void undo() } })
  return outcome
}
