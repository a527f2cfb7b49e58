import { api, newId, take, type DraftView, type Writing } from '../api/client'
import { kept, watched } from './store'

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
const unsaved = kept<Record<string, { conversation?: number; writing: Writing }>>('unsaved', {})

const pause = 400
let timer: ReturnType<typeof setTimeout> | undefined
let since = 0

/** Changes the letter being written, and keeps it within a second. */
export function type(change: Partial<Writing>) {
  const was = composing.get()
  if (!was) return
  const now = { ...was, writing: { ...was.writing, ...change } }
  composing.set(now)
  unsaved.set((all) => ({ ...all, [now.draft]: { conversation: now.conversation, writing: now.writing } }))
  if (since === 0) since = Date.now()
  clearTimeout(timer)
  // A fast typist never pauses; the oldest change waits no longer than this.
  timer = setTimeout(() => void save(), Math.max(0, Math.min(pause, since + 800 - Date.now())))
}

/** Brings everything unsaved to the server. */
export async function save() {
  clearTimeout(timer)
  since = 0
  for (const [id, { conversation, writing }] of Object.entries(unsaved.get())) {
    try {
      await take(api.PUT('/api/drafts/{id}', { params: { path: { id } }, body: { conversation, writing } }))
      unsaved.set((all) => {
        if (all[id]?.writing !== writing) return all // typed on meanwhile
        return without(all, id)
      })
    } catch {
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
  unsaved.set((all) => without(all, draft))
  if (composing.get()?.draft === draft) composing.set(undefined)
}

export function begin(writing: Writing, conversation?: number, saw?: number) {
  composing.set({ draft: newId(), conversation, saw, writing })
}

export function resume(d: DraftView, saw?: number) {
  composing.set({ draft: d.id, conversation: d.conversation, saw, writing: unsaved.get()[d.id]?.writing ?? d.writing })
}

/** Leaves the letter for now; it stays among the drafts. */
export function leave() {
  void save()
  composing.set(undefined)
}

const without = <T>(all: Record<string, T>, id: string): Record<string, T> =>
  Object.fromEntries(Object.entries(all).filter(([key]) => key !== id))
