import type { Conversation, Opening, Routine, RoutineStep } from '../api/client'
import { startAbout, startAnswer, startHandOn } from './answering'
import { carryOut, told } from './commands'
import type { Targets } from './listing'
import { putTemplate } from './preparing'
import { own } from './mine'
import { composing, sendsNow, type } from './writing'

/** The letter that was last in sight: with it routines are tried while they are made. */
export const lastInSight = own<{ id: number; title: string } | undefined>('last-in-sight', undefined)

/** A routine while it is made or changed. */
export interface RoutineDraft {
  id?: number
  name: string
  key: string
  steps: RoutineStep[]
  hint?: string
  /** How it stood when it was begun to change it. */
  was?: string
}

/** The routine that is being made; it outlives the page. */
export const routineDraft = own<RoutineDraft | undefined>('routine-draft', undefined)

/** How a routine stands, to be compared. */
export const standing = (r: Routine) => JSON.stringify([r.name, r.key, r.steps])

/** Carries out a routine on letters that stay where they are. */
export const markBy = (r: Routine, on: Targets) => carryOut({ path: 'run-routine', id: r.id, body: { on } })

/** What a routine opens is begun. */
function begin(o: Opening, c: Conversation) {
  if (o.kind === 'new') startAbout(c, o.to)
  else if (o.kind === 'answer') startAnswer(c)
  else {
    startHandOn(c)
    if (o.to.length > 0) type({ to: o.to })
  }
  const at = composing.get()
  const fillIn = () => document.querySelector<HTMLElement>('[data-to-fill-in]')?.focus()
  if (o.template) putTemplate(o.template, at, () => (o.send ? sendsNow.set(at?.draft) : requestAnimationFrame(fillIn)))
}

/** Carries out a routine that opens a letter: what else it does, then the letter. What is written
 * anew is about a letter that may be decided on by then; the others are written in its place. */
export function openBy(
  r: Routine,
  opening: Opening,
  on: Targets,
  write: (start: (c: Conversation) => void) => void,
  decide: () => void,
) {
  const marks = r.steps.some((s) => s.do !== 'write' && s.do !== 'decide')
  if (opening.kind === 'new' && r.ends) {
    write((c) => {
      decide()
      begin(opening, c)
    })
  } else if (!marks) write((c) => begin(opening, c))
  else void markBy(r, on).then((o) => told(o) && write((c) => begin(opening, c)))
}
