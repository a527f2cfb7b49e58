import { Hand } from 'lucide-react'
import type { Overview } from '../api/client'
import { Dialog, DialogFoot } from '../parts/Dialog'
import { PhraseBox } from '../parts/PhraseBox'
import { carryOut } from '../state/commands'

const forATime = [
  { phrase: 'in 1 hour', words: 'For one hour', label: 'in 1 hour', why: '' },
  { phrase: 'in 3 hours', words: 'For three hours', label: 'in 3 hours', why: '' },
]

/** Holds delivery: until let in, for a time, or until a phrase. When it is
 * held, lets letters in. */
export function HoldDialog({ overview, onClose }: { overview: Overview; onClose: () => void }) {
  const waiting = overview.held === 1 ? '1 letter waits' : `${overview.held} letters wait`
  const done = () => onClose()
  return (
    <Dialog
      title={overview.hold ? `Held ${overview.hold.words}` : 'Hold delivery'}
      hint={overview.hold ? (overview.held > 0 ? waiting : 'nothing waits') : 'new letters wait outside'}
      icon={<Hand className="size-5 text-lamp" aria-hidden />}
      onClose={onClose}
    >
      {overview.hold && (
        <div className="mb-4 flex flex-wrap gap-2">
          <button
            autoFocus
            className="btn btn-main"
            onClick={() => {
              void carryOut({ path: 'let-in', body: { open: true } })
              done()
            }}
          >
            Let in and open
          </button>
          <button
            className="btn"
            disabled={overview.held === 0}
            onClick={() => {
              void carryOut({ path: 'let-in', body: {} })
              done()
            }}
          >
            Let in {overview.held > 0 ? overview.held : ''} now, go on holding
          </button>
        </div>
      )}
      {!overview.hold && (
        <button
          className="btn mb-3 self-start"
          onClick={() => {
            void carryOut({ path: 'hold', body: {} })
            done()
          }}
        >
          Until I let it in
        </button>
      )}
      <p className="mb-1 text-[13px] text-ink-2">{overview.hold ? 'Or hold until another time' : 'Or until'}</p>
      <PhraseBox
        label="Hold until"
        quiet={Boolean(overview.hold)}
        first={forATime}
        onTake={(p) => {
          void carryOut({ path: 'hold', body: { until: p.phrase === 'someday' ? '' : p.phrase } })
          done()
        }}
      />
      <DialogFoot>
        <span className="text-[13px] text-ink-2">
          Answers to you are still noticed in Waiting. Nothing is turned away.
        </span>
      </DialogFoot>
    </Dialog>
  )
}
