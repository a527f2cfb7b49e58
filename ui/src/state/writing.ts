import { api, newId, take, Trouble, type Conversation, type DraftView, type Writing } from '../api/client'
import { refresh } from '../api/stale'
import { client } from '../api/queries'
import { focusLeft } from './focus'
import { mine, whose } from './mine'
import { watched } from './store'

/** The letter being written: where, and what. */
export interface Open {
  draft: string
  conversation?: number
  saw?: number
  version?: number
  writing: Writing
}

export const composing = watched<Open | undefined>(undefined)

/** The draft that is to leave as soon as it stands, as a routine says. */
export const sendsNow = watched<string | undefined>(undefined)

/** What was typed and is not yet known to be safe on the server. It outlives
 * the page, so that nothing is lost when it is closed in mid-word. */
const unsaved = mine<{ conversation?: number; writing: Writing }>('unsaved')

const kept = (draft: string) => unsaved.get().find((e) => e.id === draft)?.value.writing

/** What this page knows to be safe, and since when. A list that was asked for before
 * is older than that, and never what is gone on with. */
const safe = new Map<string, { writing: Writing; updatedAt: string }>()

/** What a draft says by now, by all that this page knows. */
function latest(d: DraftView): Writing {
  const ours = safe.get(d.id)
  return kept(d.id) ?? (ours && new Date(ours.updatedAt) >= new Date(d.updatedAt) ? ours.writing : d.writing)
}

/** When what is open here was last safe on the server. */
export const keptAt = watched<string | undefined>(undefined)

const pause = 400
let timer: ReturnType<typeof setTimeout> | undefined
let since = 0

/** Fills in what nobody has typed: there is nothing of it to keep. */
export function fill(change: Partial<Writing>) {
  const was = composing.get()
  if (was) composing.set({ ...was, writing: { ...was.writing, ...change } })
}

/** Changes the letter being written, and keeps it within a second. */
export function type(change: Partial<Writing>) {
  const was = composing.get()
  if (!was) return
  const now = { ...was, writing: { ...was.writing, ...change } }
  composing.set(now)
  unsaved.put(now.draft, { conversation: now.conversation, writing: now.writing })
  if (since === 0) since = Date.now()
  clearTimeout(timer)
  // A fast typist never pauses; the oldest change waits no longer than this.
  timer = setTimeout(() => void save(), Math.max(0, Math.min(pause, since + 800 - Date.now())))
}

let saving: Promise<void> = Promise.resolve()

/** Brings everything unsaved to the server: one after the other, so that what is
 * older never arrives last. */
export function save(): Promise<void> {
  clearTimeout(timer)
  since = 0
  return (saving = saving.then(saveAll, saveAll))
}

async function saveAll() {
  await unsaved.adopt()
  for (const {
    id,
    value: { conversation, writing },
  } of unsaved.get()) {
    try {
      const { updatedAt, over } = await take(
        api.PUT('/api/drafts/{id}', { params: { path: { id } }, body: { conversation, writing } }),
      )
      if (over && goOnAnew(id, conversation)) return
      safe.set(id, { writing, updatedAt })
      if (composing.get()?.draft === id) keptAt.set(updatedAt)
      if (kept(id) === writing) unsaved.drop(id) // else it was typed on meanwhile
      if (composing.get()?.draft !== id) refresh(['drafts', 'conversation'])
    } catch (e) {
      if (e instanceof Trouble && (e.kind === 'somebody-else' || e.kind === 'signed-out')) return
      timer = setTimeout(() => void save(), 2000)
      return
    }
  }
}

/** Goes on under another name with what is open here and is over elsewhere: it was sent or
 * replaced there, and what is typed on is not lost. */
function goOnAnew(id: string, conversation?: number): boolean {
  unsaved.drop(id)
  const open = composing.get()
  if (open?.draft !== id) return false
  const draft = newId()
  composing.set({ ...open, draft })
  unsaved.put(draft, { conversation, writing: open.writing })
  timer = setTimeout(() => void save(), pause)
  return true
}

/** Closes the letter; what was typed is kept until it is known to be safe. */
export function close() {
  composing.set(undefined)
  focusLeft()
}

/** Opens a letter again that could not be sent; it stays a draft where another is
 * being written by now. */
export function giveBack(open: Open) {
  if (composing.get()) shown(open)
  else composing.set(open)
  void save()
}

/** Forgets what was typed, once it was sent or thrown away. */
export function forget(draft: string) {
  unsaved.drop(draft)
  safe.delete(draft)
  if (composing.get()?.draft === draft) close()
}

/** A conversation as it was when the writing began. */
type Seen = { last: number; version?: number }

export function begin(writing: Writing, conversation?: number, seen?: Seen) {
  keptAt.set(undefined)
  composing.set({ draft: newId(), conversation, saw: seen?.last, version: seen?.version, writing })
}

export function resume(d: DraftView, seen?: Seen) {
  keptAt.set(d.updatedAt)
  composing.set({
    draft: d.id,
    conversation: d.conversation,
    saw: seen?.last,
    version: seen?.version,
    writing: latest(d),
  })
}

/** What was begun of a kind about a conversation, if anything was: as the server has
 * told, or not yet told, of it. */
export function begun(c: Conversation, kind: Writing['kind']): DraftView | undefined {
  const told = c.drafts.find((d) => d.writing.kind === kind)
  if (told) return told
  const here = unsaved.get().find(({ value }) => value.conversation === c.id && value.writing.kind === kind)
  return here && { id: here.id, conversation: c.id, writing: here.value.writing, updatedAt: new Date().toISOString() }
}

/** Leaves the letter for now. If something was typed it stays among the drafts,
 * and on its letter. */
export function leave() {
  const open = composing.get()
  if (open && (kept(open.draft) || safe.has(open.draft))) shown(open)
  void save()
  close()
}

/** Shows a draft on its letter before the server has told of it. */
function shown(open: Open) {
  client.setQueryData<Conversation>(['conversation', open.conversation], (c) => {
    if (!c) return c
    const draft = {
      id: open.draft,
      conversation: open.conversation,
      writing: open.writing,
      updatedAt: new Date().toISOString(),
    }
    return { ...c, drafts: [...c.drafts.filter((d) => d.id !== open.draft), draft] }
  })
}

/** The letter that is open in this page, so that it is open again after a reload. */
const openHere = 'ebbe.open'
composing.watch((open) => {
  try {
    if (open) sessionStorage.setItem(openHere, JSON.stringify({ ...open, ...whose() }))
    else sessionStorage.removeItem(openHere)
  } catch {
    // A browser that keeps nothing works all the same.
  }
})

/** Opens again what was open when the page was last left. */
export function reopen() {
  try {
    const open = JSON.parse(sessionStorage.getItem(openHere) ?? 'null') as
      (Open & { person: number; inbox: number }) | null
    if (!open || composing.get()) return
    const who = whose()
    if (open.person !== who.person || open.inbox !== who.inbox)
      return who.person ? sessionStorage.removeItem(openHere) : undefined // somebody else's
    composing.set({
      draft: open.draft,
      conversation: open.conversation,
      saw: open.saw,
      version: open.version,
      writing: kept(open.draft) ?? open.writing,
    })
  } catch {
    // as above
  }
}
