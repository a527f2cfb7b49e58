import { api, newId, take, Trouble, type DraftView, type Writing } from '../api/client'
import { mine } from './mine'
import { watched } from './store'

/** The letter being written: where, and what. */
export interface Open {
  draft: string
  conversation?: number
  saw?: number
  writing: Writing
}

export const composing = watched<Open | undefined>(undefined)

/** What was typed and is not yet known to be safe on the server. It outlives
 * the page, so that nothing is lost when it is closed in mid-word. */
const unsaved = mine<{ conversation?: number; writing: Writing }>('unsaved')

const kept = (draft: string) => unsaved.get().find((e) => e.id === draft)?.value.writing

const pause = 400
let timer: ReturnType<typeof setTimeout> | undefined
let since = 0

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

/** Brings everything unsaved to the server. */
export async function save() {
  clearTimeout(timer)
  since = 0
  await unsaved.adopt()
  for (const {
    id,
    value: { conversation, writing },
  } of unsaved.get()) {
    try {
      await take(api.PUT('/api/drafts/{id}', { params: { path: { id } }, body: { conversation, writing } }))
      if (kept(id) === writing) unsaved.drop(id) // else it was typed on meanwhile
    } catch (e) {
      if (e instanceof Trouble && (e.kind === 'somebody-else' || e.kind === 'signed-out')) return
      timer = setTimeout(() => void save(), 2000)
      return
    }
  }
}

/** Closes the letter and keeps what was typed until it is known to be safe. */
export function handOver(): Open | undefined {
  const open = composing.get()
  composing.set(undefined)
  return open
}

/** Opens a letter again that could not be sent. */
export function giveBack(open: Open) {
  composing.set(open)
  void save()
}

/** Forgets what was typed, once it was sent or thrown away. */
export function forget(draft: string) {
  unsaved.drop(draft)
  if (composing.get()?.draft === draft) composing.set(undefined)
}

export function begin(writing: Writing, conversation?: number, saw?: number) {
  composing.set({ draft: newId(), conversation, saw, writing })
}

export function resume(d: DraftView, saw?: number) {
  composing.set({ draft: d.id, conversation: d.conversation, saw, writing: kept(d.id) ?? d.writing })
}

/** Leaves the letter for now; it stays among the drafts. */
export function leave() {
  void save()
  composing.set(undefined)
}
