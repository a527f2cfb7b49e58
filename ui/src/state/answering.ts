import { api, take, type Account, type Conversation } from '../api/client'
import { client } from '../api/queries'
import { begin, begun, resume } from './writing'

/** The addresses that an account writes from: its own, and those to send as. */
export const writesFrom = (a: Account) => [{ name: a.name, email: a.address }, ...a.sendAs]

export const accountOf = (address: string, accounts = client.getQueryData<Account[]>(['accounts']) ?? []) =>
  accounts.find((a) => writesFrom(a).some((w) => w.email.toLowerCase() === address.toLowerCase()))

const signature = (address: string) => '\n' + (accountOf(address)?.block ?? '')

/** Whether letters from an address are written as Markdown. */
const markdown = (address: string) => accountOf(address)?.markdown || undefined

/** Changes the signature below a text along with the sender, if one is still there. */
export const signedBy = (text: string, was: string, now: string) => signed(text, was, signature(now))

/** Puts another signature below a text in the place of the one that is there. */
export function signed(text: string, from: string, block: string): string {
  const account = accountOf(from)
  const all = [signature(from), ...(account?.more ?? []).map((m) => `\n${m.block ?? ''}`)]
  const old = all.filter((s) => text.endsWith(s)).sort((a, b) => b.length - a.length)[0]
  return old === undefined ? text : text.slice(0, text.length - old.length) + block
}

/** Begins an answer, or goes on with the one already begun. */
export function startAnswer(c: Conversation) {
  const draft = begun(c, 'answer')
  if (draft) return resume(draft, c)
  const a = c.answer
  begin(
    {
      kind: 'answer',
      from: a.from,
      to: a.to,
      cc: a.cc,
      subject: a.subject,
      text: signature(a.from),
      markdown: markdown(a.from),
      letter: a.letter,
    },
    c.id,
    c,
  )
}

/** Begins handing a letter on. */
export function startHandOn(c: Conversation) {
  const draft = begun(c, 'hand-on')
  if (draft) return resume(draft, c)
  const a = c.answer
  begin(
    {
      kind: 'hand-on',
      from: a.from,
      to: [],
      subject: a.forward,
      text: signature(a.from),
      markdown: markdown(a.from),
      letter: a.letter,
    },
    c.id,
    c,
  )
}

/** Begins a new letter about one that came, to others. */
export function startAbout(c: Conversation, to: string[]) {
  const { from, letter } = c.answer
  begin({ kind: 'new', from, to, subject: '', text: signature(from), markdown: markdown(from), letter })
}

/** Begins sending a letter once more that could not be delivered. */
export async function startAgain(c: Conversation, report: number) {
  const writing = await take(api.GET('/api/letters/{id}/again', { params: { path: { id: report } } }))
  begin(writing, c.id, c)
}

/** Begins a letter that reminds somebody of what is waited for. */
export async function startNudge(id: number) {
  const n = await take(api.GET('/api/waiting/{id}/nudge', { params: { path: { id } } }))
  begin(n.writing, n.conversation, n)
}

/** Begins a new letter, from an account if one is meant. */
export function startNew(account = 0) {
  const accounts = client.getQueryData<{ id: number; address: string }[]>(['accounts']) ?? []
  const from = (accounts.find((a) => a.id === account) ?? accounts[0])?.address.toLowerCase() ?? ''
  begin({ kind: 'new', from, to: [], subject: '', text: signature(from), markdown: markdown(from) })
}
