import { toast } from './toast'
import { api, errorText, newId, take, Trouble, Unreachable, type Reading } from '../api/client'
import { client } from '../api/queries'
import { atThePause, makeStale, refresh } from '../api/stale'
import { again, type Again } from './again'
import { isOnline, setOnline } from './online'
import { afterPaint } from './paint'
import { mine as minePerPerson } from './mine'
import { watched } from './store'
import type { Target } from './listing'
import { hide, show, takeOut, wholeListsOf, type RowKey } from './hiding'
import { operations, type Body, type Command } from './operations'
import { follow, seen } from './versions'
import { failed } from './failed'

export type { Command } from './operations'
export type EntryRef = Body<'ahead'>['on'][number]
export type SettingsFields = Body<'settings'>
export type AccountFields = Body<'edit-account'>
export type DecideBody = Body<'decide'>
export type FollowUpFields = Omit<Body<'edit-follow-up'>, 'version'>
export type AppointmentFields = Body<'edit-appointment'>
export type StageFields = Body<'edit-follow-stage'>

interface Queued {
  id: string
  command: Command
}

/** A decision, or a routine in the place of one. */
export type DecisionBody = Omit<DecideBody, 'on'> | { routine: number }

/** The command that decides on letters, which leave the list if they are hidden. */
export const decisionOn = (body: DecisionBody, on: Target[], hides: RowKey[] = []): Command => ({
  ...('routine' in body
    ? { path: 'run-routine', id: body.routine, body: { on } }
    : { path: 'decide', body: { ...body, on } }),
  ...(hides.length > 0 ? { hides } : {}),
})

/** What became of a command: a title for the person, and what an undo gave back. */
export interface Outcome {
  title: string
  left?: string[]
  draft?: string
  conversations?: number[]
  new?: number[]
  now?: Target[]
  leavesAt?: string
  final?: boolean
  followUp?: number
  next?: number[]
  over?: { field: string; was: string }[]
  added?: number
  joined?: number
  unread?: { card: number; name: string; what: string }[]
  address?: string
}

const queue = minePerPerson<Command>('queue')
const mine = new Set<string>()
const results = new Map<string, (outcome: Outcome | undefined) => void>()
let sending = false
let later: ReturnType<typeof setTimeout> | undefined

/** How many commands wait, where that is worth telling: many, or the server is away. */
export const useQueued = () => queue.useOf((q) => (q.length > 3 || !isOnline() ? q.length : 0))
/** How many letters have left the inbox in this page while the server is away. */
export const useQueuedOut = () =>
  queue.useOf((q) =>
    q.reduce((n, { value: c }) => {
      if (isOnline() || c.path !== 'decide' || !c.hides) return n
      return n + c.body.on.filter((t) => t.place === 'inbox').length
    }, 0),
  )
export const wasMine = (id: string) => mine.has(id)

/** Carries out a command: shown at once, sent in order, kept until the server
 * has it. Resolves with its outcome, or undefined if it was refused. */
export function carryOut(command: Command): Promise<Outcome | undefined> {
  const id = newId()
  if (command.path !== 'undo') further.set(undefined)
  mine.add(id)
  if (command.hides) hide(command.hides, id)
  queue.put(id, command)
  const done = new Promise<Outcome | undefined>((resolve) => results.set(id, resolve))
  afterPaint(() => void resend())
  return done
}

/** Sends what waits, in order. */
export async function resend() {
  if (sending) return
  sending = true
  try {
    if (await queue.adopt()) {
      clearTimeout(later)
      later = setTimeout(() => void resend(), 2000)
    }
    for (let entry = queue.get()[0]; entry; entry = queue.get()[0]) {
      const next = { id: entry.id, command: entry.value }
      let answer
      try {
        answer = await send(next)
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
      try {
        if (answer) settled(next, answer.outcome, answer.stale)
      } catch (e) {
        reportError(e) // it was done, whatever the page makes of it, and what waits behind it goes on
      }
      results.get(id)?.(answer?.outcome)
      results.delete(id)
    }
  } finally {
    sending = false
  }
}

/** What a command is about, and its operation. An earlier page may have left one in the
 * queue that calls them otherwise. */
function objectOf(c: Command): number | string {
  const left = c as { id?: number | string; letter?: number; draft?: string }
  return left.id ?? left.letter ?? left.draft ?? 0
}
const operationOf = (c: Command) => operations[(c.path as string) === 'notices' ? 'notifications' : c.path]

/** Sends a command, and gives what became of it with what that makes stale. */
async function send({ id, command: c }: Queued): Promise<{ outcome: Outcome; stale: string | null }> {
  const [method, path] = operationOf(c).split(' ') as ['POST', '/api/through/{id}/end'] // one stands for all
  const body = { ...c.body, ...('on' in c.body ? { on: (c.body.on as unknown[]).map(seen) } : {}), command: id }
  let stale = null
  const answer = api.request(method.toLowerCase() as 'post', path, {
    params: { path: { id: objectOf(c) as number } },
    body,
  })
  const outcome = await take(answer, (names) => (stale = names))
  return { outcome, stale }
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
  refresh(['list', 'conversation', 'overview', 'follow-ups', 'ahead', 'waiting'])
}

/** The server has it: the rows leave the cached lists for good. */
function settled({ id, command: c }: Queued, outcome: Outcome, stale: string | null) {
  const back = new Set<RowKey>(outcome.new ?? [])
  const gone = new Set((c.hides ?? []).filter((one) => !back.has(one)))
  const whole = wholeListsOf(gone)
  if (whole.length > 0) {
    // Ten thousand rows are gone through once, when nobody decides any more and they
    // have been read again; until then these are hidden.
    atThePause(whole, (since) => {
      refresh(takeOut(gone, since), true)
      show(id)
    })
    makeStale(stale, whole, true)
  } else if (c.hides && back.size === 0) {
    const again = takeOut(gone)
    // Letters have left the list in sight already; others are read again when they
    // are next looked at.
    const up: Reading[] = again.includes('list') ? [] : ['list']
    for (const name of up) void client.invalidateQueries({ queryKey: [name], refetchType: 'none' })
    makeStale(stale, up, true)
    refresh(again, true)
  } else makeStale(stale)
  follow(outcome.now ?? [], 'on' in c.body ? (c.body.on as Target[]) : [])
  if (whole.length === 0) show(id)
  for (const text of outcome.left ?? []) toast(text)
  if (back.size > 0) toast('A newer letter has come since. It is back in the inbox.')
}

/** The undo that was asked about, as it is once it is meant. */
const further = watched<Command | undefined>(undefined)

/** Takes back the latest step, or the one named, and says so. */
export async function undo(entry?: number) {
  const asked = further.get()
  if (asked) toast.dismiss('further')
  further.set(undefined)
  const outcome = await carryOut(entry ? { path: 'undo', body: { entry } } : (asked ?? { path: 'undo', body: {} }))
  if (outcome) say(outcome.title)
  return outcome
}

/** Does again what was taken back last, and says so. */
export async function redo() {
  const outcome = await carryOut({ path: 'redo', body: {} })
  if (outcome) say(outcome.title)
  return outcome
}

type Told = NonNullable<Parameters<typeof toast>[1]>

/** Says what was done last, in the place of what was done before it: an Undo that still
 * stood there would take back this step instead of its own. */
const say = (title: string, more: Told = {}) =>
  toast(title, { id: 'done', action: undefined, description: undefined, duration: undefined, ...more })

/** Says what was done, and offers to take it back. */
export const tellDone = (title: string, more: Told = {}, back: () => unknown = undo) =>
  say(title, { action: { label: 'Undo', onClick: () => void back() }, ...more })

/** Says what became of a command, and offers to take back what can be. */
export function told(outcome: Outcome | undefined) {
  if (outcome?.final) say(outcome.title)
  else if (outcome) tellDone(outcome.title)
  return outcome
}
