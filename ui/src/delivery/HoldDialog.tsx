import { Link } from '@tanstack/react-router'
import { Hand } from 'lucide-react'
import { useState } from 'react'
import type { Gate } from '../api/client'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { PhraseBox } from '../days/PhraseBox'
import { carryOut } from '../state/commands'
import { causes, gateShort, letIn } from '../state/gate'

const forATime = [
  { phrase: 'in 1 hour', words: 'For one hour', label: 'in 1 hour', why: '' },
  { phrase: 'in 3 hours', words: 'For three hours', label: 'in 3 hours', why: '' },
]

/** Holds delivery: until let in, for a time, or until a phrase. When it is
 * held, lets letters in. */
export function HoldDialog(props: { gate: Gate; held: number; account?: number; onClose: () => void }) {
  const { gate, held, account = 0, onClose } = props
  const [everything, setEverything] = useState(false)
  const waiting = held === 1 ? '1 letter waits' : `${held} letters wait`
  const hold = (until?: string) => {
    void carryOut({ path: 'hold', body: { account, everything, ...(until ? { until } : {}) } })
    onClose()
  }
  return (
    <Dialog
      title={gate.open ? 'Hold delivery' : `Held ${gateShort(gate)}`}
      hint={
        gate.open
          ? 'new letters wait outside'
          : `${causes[gate.cause].toLowerCase()}, ${held > 0 ? waiting : 'nothing waits'}`
      }
      icon={<Hand className="size-5 text-lamp" aria-hidden />}
      onClose={onClose}
    >
      {!gate.open && (
        <div className="mb-4 flex flex-wrap gap-2">
          <button
            autoFocus
            className="btn btn-main"
            onClick={() => {
              letIn(gate, { open: true, account })
              onClose()
            }}
          >
            Let in and open
          </button>
          <button
            className="btn"
            disabled={held === 0}
            onClick={() => {
              letIn(gate, { account })
              onClose()
            }}
          >
            Let in {held > 0 ? held : ''} now, go on holding
          </button>
        </div>
      )}
      {gate.cause !== 'hold' && (
        <button className="btn mb-3 self-start" onClick={() => hold()}>
          Until I let it in
        </button>
      )}
      <p className="mb-1 text-[13px] text-ink-2">{gate.open ? 'Or until' : 'Or hold until another time'}</p>
      <PhraseBox
        label="Hold until"
        quiet={!gate.open}
        first={forATime}
        onTake={(p) => hold(p.phrase === 'someday' ? undefined : p.phrase)}
      />
      <label className="mt-3 flex items-center gap-2 text-[13px] text-ink-2">
        <input
          type="checkbox"
          className="size-4 accent-[var(--tide)]"
          checked={everything}
          onChange={(e) => setEverything(e.target.checked)}
        />
        Everything, also what is let through at other times
      </label>
      <DialogFoot>
        <span className="mr-auto text-[13px] text-ink-2">
          Answers to you are still noticed in Waiting. Nothing is turned away.
        </span>
        <Link to="/delivery" className="text-[13px] text-tide underline" onClick={onClose}>
          The week’s plan
        </Link>
      </DialogFoot>
    </Dialog>
  )
}
