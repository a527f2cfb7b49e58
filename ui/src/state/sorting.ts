import { carryOut, tellDone, undo } from './commands'
import type { Targets } from './listing'
import type { Body } from './operations'

export type Kind = Body<'sort'>['kind']
export type Scope = NonNullable<Body<'sort'>['scope']>

/** Kinds as they are told, with the digit that moves there. */
export const kinds: { kind: Kind; word: string; digit: string }[] = [
  { kind: 'person', word: 'Inbox', digit: '1' },
  { kind: 'receipts', word: 'Receipts', digit: '2' },
  { kind: 'notices', word: 'Notices', digit: '3' },
  { kind: 'reading', word: 'Reading', digit: '4' },
  { kind: 'meetings', word: 'Meetings', digit: '5' },
  { kind: 'copies', word: 'Copies', digit: '6' },
]

/** Puts letters among those of another kind. What that settles for their senders can be
 * taken back alone. */
export function sortTo(on: Targets, kind: Kind, scope?: Scope) {
  if (on.length === 0) return
  void carryOut({ path: 'sort', body: { on, kind, ...(scope ? { scope } : {}) }, hides: on.map((t) => t.id) }).then(
    (o) => {
      if (!o) return
      const only = () => void undo().then(() => sortTo(on, kind))
      tellDone(o.title, scope ? { cancel: { label: 'Only this', onClick: only } } : {})
    },
  )
}
