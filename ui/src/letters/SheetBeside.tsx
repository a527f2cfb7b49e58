import type { Conversation } from '../api/client'
import { flag, quieten, star } from '../state/marking'
import { Sheet } from './Sheet'

/** The letter that is read beside a list of lines, and in its place where there is little room. */
export function SheetBeside(props: {
  id: number | undefined
  open: Conversation | undefined
  onBack: () => void
  onLabel: () => void
}) {
  const { open } = props
  return (
    <div className="flex min-h-0 w-[48%] shrink-0 flex-col pb-1 max-lg:w-full">
      <Sheet
        id={props.id}
        onBack={props.onBack}
        onStar={() => open && star(open)}
        onFlag={() => open && flag(open)}
        onLabel={props.onLabel}
        onQuiet={() => open && quieten(open)}
      />
    </div>
  )
}

/** Reads on in the open letter; false at its end. */
export function readOn(): boolean {
  const paper = document.querySelector('[data-letters]')
  if (!paper || paper.scrollTop + paper.clientHeight >= paper.scrollHeight - 4) return false
  paper.scrollBy({ top: paper.clientHeight * 0.85 })
  return true
}
