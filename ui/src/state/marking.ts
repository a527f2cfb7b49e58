import type { Conversation } from '../api/client'
import { carryOut, told } from './commands'

// The marks of one conversation, wherever it is shown by itself.

export const star = (c: Conversation) =>
  void carryOut({ path: 'mark', body: { on: [c.id], mark: 'star', off: c.star } })

export const flag = (c: Conversation) => void carryOut({ path: 'flag', body: { on: [{ id: c.id, last: c.last }] } })

export const quieten = (c: Conversation) =>
  void carryOut({ path: 'mark', body: { on: [c.id], mark: 'quiet', off: c.quiet ?? false } }).then(told)

export const label = (c: Conversation, labels: string[]) => {
  for (const value of labels) void carryOut({ path: 'mark', body: { on: [c.id], mark: 'label', value } })
}
