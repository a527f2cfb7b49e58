import { DialogFoot } from '../kit/Dialog'

/** What stands in place of a list that is not read yet, or could not be. */
export function Reading(props: { pending: boolean; what: string; error: string; again: () => void }) {
  if (props.pending) return <p className="py-6 text-ink-2">{props.what}</p>
  if (!props.error) return null
  return (
    <p role="alert" className="py-6">
      {props.error}{' '}
      <button className="btn btn-small" onClick={props.again}>
        Try again
      </button>
    </p>
  )
}

/** How one moves in such a list, and leaves it. */
export function ListFoot({ word, onClose }: { word: string; onClose: () => void }) {
  return (
    <DialogFoot>
      <span className="flex-1 text-[13px] text-ink-2 max-md:hidden">
        <span className="key">J</span> <span className="key">K</span> move <span className="key">X</span> select
      </span>
      <button className="btn btn-main" onClick={onClose}>
        {word} <span className="key">Esc</span>
      </button>
    </DialogFoot>
  )
}
