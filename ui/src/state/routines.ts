import type { Conversation, Routine } from '../api/client'
import { startAnswer, startHandOn } from './answering'
import { carryOut, told } from './commands'
import type { Targets } from './listing'
import { putTemplate } from './preparing'
import { kept } from './store'
import { composing, sendsNow, type } from './writing'

/** The letter that was last in sight: with it routines are tried while they are made. */
export const lastInSight = kept<{ id: number; title: string } | undefined>('last-in-sight', undefined)

/** Carries out a routine on letters that stay where they are. */
export const markBy = (r: Routine, on: Targets) => carryOut({ path: 'run-routine', id: r.id, body: { on } })

/** Carries out a routine that opens a letter at its end: what comes before that, then the letter. */
export function openBy(r: Routine, on: Targets, write: (start: (c: Conversation) => void) => void) {
  const last = r.steps.at(-1)
  const open = () =>
    write((c) => {
      if (last?.decision === 'hand-on') {
        startHandOn(c)
        if (last.to) type({ to: last.to.split(',').map((a) => a.trim()) })
      } else startAnswer(c)
      if (last?.template) {
        const at = composing.get()
        putTemplate(last.template, at, () => last.send && sendsNow.set(at?.draft))
      }
    })
  if (r.steps.length < 2) return open()
  void markBy(r, on).then((o) => {
    if (!told(o)) return
    open()
  })
}
