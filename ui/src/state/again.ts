import type { Command } from './commands'
import { watched } from './store'

/** What the server would not do before the person has said once more that it
 * is meant: to put off what was put off often already, or to decide what was
 * decided elsewhere meanwhile. */
export interface Again {
  kind: 'put-off-again' | 'decided-since'
  reason: string
  /** The conversations that are asked about. */
  on: number[]
  /** The same command, with the word that it is meant. */
  command: Command
}

/** What waits for the word, the oldest first: none takes another's place. */
export const again = watched<readonly Again[]>([])

/** What else can be done with a letter that was put off often. */
export type Instead = 'answer' | 'handOn' | 'followUp' | 'done'
