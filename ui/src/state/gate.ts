import { toast } from './toast'
import type { Gate, Overview } from '../api/client'
import { carryOut, told } from './commands'
import { useReadAgain } from './readAgain'
import { clock } from './time'

/** Why delivery is held, or open. */
export const causes: Record<Gate['cause'], string> = {
  hold: 'Held by hand',
  closed: 'Closed block',
  quiet: 'Quiet hours',
  between: 'Between rounds',
  opened: 'Opened by hand',
  open: 'Open',
}

/** Until when, without the day where that is today. */
export function gateShort(gate: Gate): string {
  const at = gate.open ? gate.until : gate.next
  return gate.words.startsWith('until today') && at ? `until ${clock(at)}` : gate.words
}

const countdown = 5

/** Lets mail in. Before its time it counts down first, and can be called off. */
export function letIn(gate: Gate, body: { open?: boolean; account?: number }) {
  const go = () => void carryOut({ path: 'let-in', body }).then(told)
  if (gate.open || gate.cause === 'hold') return go()
  const id = 'let-in-early'
  let left = countdown
  const tick = () => {
    toast(`Letting in early in ${left} s`, {
      id,
      duration: Infinity,
      description: `${causes[gate.cause]} ${gateShort(gate)}`,
      action: { label: 'Let in now', onClick: () => finish(go) },
      cancel: { label: 'Cancel', onClick: () => finish() },
    })
  }
  const timer = setInterval(() => {
    left -= 1
    if (left > 0) tick()
    else finish(go)
  }, 1000)
  const finish = (then?: () => void) => {
    clearInterval(timer)
    toast.dismiss(id)
    then?.()
  }
  tick()
}

/** Makes a sender a key person, whose letters come at any time. */
export const letThrough = (email: string) =>
  void carryOut({ path: 'add-through', body: { kind: 'sender', value: email, until: '', key: true } }).then(told)

/** Reads the state again when it is about to change by itself. */
export function useGateClock(overview: Overview | undefined) {
  useReadAgain(overview?.gate.open ? overview.gate.until : overview?.gate.next, ['overview', 'delivery', 'day'])
}
