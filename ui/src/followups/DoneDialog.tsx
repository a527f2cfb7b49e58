import { CircleHelp } from 'lucide-react'
import { useState } from 'react'
import { Dialog } from '../kit/Dialog'
import { PhraseBox } from '../days/PhraseBox'
import { carryOut, told } from '../state/commands'

/** After an answer from a follow-up: is it done, or does it wait, and until
 * when? */
export function DoneDialog(props: { id: number; title: string; waiting?: boolean; onClose: (taken: boolean) => void }) {
  const [waits, setWaits] = useState(props.waiting ?? false)
  return (
    <Dialog
      title={waits ? 'Wait until' : 'Your answer is on its way. Is it done?'}
      hint={props.title}
      icon={<CircleHelp className="size-5 text-tide" aria-hidden />}
      onClose={() => props.onClose(false)}
    >
      {waits ? (
        <PhraseBox
          label="Wait until"
          onTake={(p) => {
            props.onClose(true)
            void carryOut({ path: 'wait-follow-up', id: props.id, body: { until: p.phrase } }).then(told)
          }}
        />
      ) : (
        <div className="flex flex-wrap gap-2">
          <button
            autoFocus
            className="btn btn-main"
            onClick={() => {
              props.onClose(true)
              void carryOut({ path: 'edit-follow-up', id: props.id, body: { status: 'done' } }).then(told)
            }}
          >
            Done
          </button>
          <button className="btn" onClick={() => setWaits(true)}>
            It waits for an answer, until…
          </button>
          <button className="btn" onClick={() => props.onClose(false)}>
            Not yet <span className="key">Esc</span>
          </button>
        </div>
      )}
    </Dialog>
  )
}
