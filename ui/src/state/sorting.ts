import type { Conversation, Row } from '../api/client'
import { carryOut, tellDone, told, undo } from './commands'
import type { Targets } from './listing'
import type { Body } from './operations'

export type Kind = Body<'sort'>['kind']
export type Refusal = Body<'refuse'>['kind']
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

/** What can be settled of whoever sent something, beside the kinds, with its digit. */
export const refusals: { kind: Refusal; word: string; digit: string; what: string }[] = [
  { kind: 'away', word: 'Turn away', digit: '7', what: 'to the bin, unseen, from now on' },
  { kind: 'junk', word: 'Always junk', digit: '8', what: 'to Junk, from now on' },
  { kind: 'wanted', word: 'Never junk', digit: '9', what: 'whatever it looks like' },
]

/** What somebody’s letters are called of whom something was settled. */
export const settledWord = (kind: Kind | Refusal | 'left') =>
  kinds.find((k) => k.kind === kind)?.word ??
  { away: 'Turned away', junk: 'Junk', wanted: 'Never junk', left: 'Unsubscribed' }[kind as Refusal | 'left']

/** The newest letter of a conversation by which its list can be left, and how. */
export function leavingOf(c: Conversation) {
  const letter = c.letterList.findLast((l) => l.body?.leave)
  return letter?.body?.leave && { letter: letter.id, way: letter.body.leave }
}

/** Turns away whoever sent letters, or settles that theirs are always or never junk. */
export function refuse(on: Targets, kind: Refusal, scope: Scope) {
  if (on.length === 0) return
  const hides = kind === 'wanted' ? [] : on.map((t) => t.id)
  void carryOut({ path: 'refuse', body: { on, kind, scope }, hides }).then(told)
}

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

/** Lets a kind that has come up above the inbox lie in the Shallows until its next round. */
export const passOver = (kind: NonNullable<Row['group']['kind']>) =>
  void carryOut({ path: 'pass-over', body: { kind } }).then(told)
