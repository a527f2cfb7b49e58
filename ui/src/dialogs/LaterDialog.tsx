import { Clock } from 'lucide-react'
import { Dialog, DialogFoot } from '../parts/Dialog'
import { PhraseBox } from '../parts/PhraseBox'
import type { Proposal } from '../api/client'

/** Asks when letters come back. */
export function LaterDialog(props: {
  title?: string
  hint: string
  putOffs?: number
  initial?: string
  again?: string
  onTake: (phrase: Proposal) => void
  onClose: () => void
}) {
  return (
    <Dialog
      title={props.title ?? 'Later: bring it back'}
      hint={props.hint}
      icon={<Clock className="size-5 text-lamp" aria-hidden />}
      onClose={props.onClose}
    >
      {(props.putOffs ?? 0) > 1 && (
        <p className="chip mb-2 self-start !bg-lamp-2 !text-lamp">put off {props.putOffs} times already</p>
      )}
      <PhraseBox label="When should it come back?" initial={props.initial ?? props.again} onTake={props.onTake} />
      <DialogFoot>
        <span className="text-[13px] text-ink-2">
          <span className="key">Enter</span> put off <span className="key ml-2">Esc</span> keep here
        </span>
      </DialogFoot>
    </Dialog>
  )
}
