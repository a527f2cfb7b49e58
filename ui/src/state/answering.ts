import type { Conversation } from '../api/client'
import { client } from '../api/queries'
import { begin, resume } from './writing'

function signature(address: string): string {
  const accounts = client.getQueryData<{ address: string; signature: string }[]>(['accounts']) ?? []
  const found = accounts.find((a) => a.address.toLowerCase() === address.toLowerCase())?.signature
  return found ? `\n\n-- \n${found}\n` : '\n'
}

/** Begins an answer, or goes on with the one already begun. */
export function startAnswer(c: Conversation) {
  const draft = c.drafts.find((d) => d.writing.kind === 'answer')
  if (draft) return resume(draft, c.last)
  const a = c.answer
  begin(
    { kind: 'answer', from: a.from, to: a.to, cc: a.cc, subject: a.subject, text: signature(a.from), letter: a.letter },
    c.id,
    c.last,
  )
}

/** Begins handing a letter on. */
export function startHandOn(c: Conversation) {
  const draft = c.drafts.find((d) => d.writing.kind === 'hand-on')
  if (draft) return resume(draft, c.last)
  const a = c.answer
  begin(
    { kind: 'hand-on', from: a.from, to: [], subject: a.forward, text: signature(a.from), letter: a.letter },
    c.id,
    c.last,
  )
}

/** Begins a new letter. */
export function startNew() {
  const accounts = client.getQueryData<{ address: string }[]>(['accounts']) ?? []
  const from = accounts[0]?.address.toLowerCase() ?? ''
  begin({ kind: 'new', from, to: [], subject: '', text: signature(from) })
}
