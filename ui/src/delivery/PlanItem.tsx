import { Popover } from 'radix-ui'
import { useState, type ReactElement } from 'react'
import { errorText } from '../api/client'
import { clockOf, itemId, itemsOf, itemWords, named, readPlan, weekdays, type Item } from '../state/plan'

interface Edited {
  item: Item
  account: number
  onClose: () => void
  /** What stands in its place: nothing, it, or several. */
  onChange: (now: Item[]) => void
}

/** One thing of the plan with its exact times, for a finger as for keys. */
export function PlanItem(props: Edited & { open: boolean; children: ReactElement }) {
  return (
    <Popover.Root open={props.open} onOpenChange={(open) => !open && props.onClose()}>
      <Popover.Anchor asChild>{props.children}</Popover.Anchor>
      <Popover.Portal>
        <Popover.Content
          side="bottom"
          align="start"
          collisionPadding={8}
          aria-label={itemWords(props.item)}
          onPointerDown={(e) => e.stopPropagation()} // React passes it on to the grid, which would draw
          onCloseAutoFocus={() => document.getElementById(itemId(props.item))?.focus()}
          className="z-50 w-64 rounded-[12px] border border-line bg-paper p-3 text-[14px] shadow-float"
        >
          <Times {...props} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

function Times({ item, account, onClose, onChange }: Edited) {
  const round = item.kind === 'rounds'
  const [text, setText] = useState(round ? clockOf(item.from) : `${clockOf(item.from)}-${clockOf(item.to)}`)
  const [trouble, setTrouble] = useState('')
  const done = (now: Item[]) => {
    onClose()
    onChange(now)
  }
  const read = async () => {
    try {
      done(itemsOf(await readPlan(account, `${weekdays[item.day]} ${round ? '' : named[item.kind]} ${text}`)))
    } catch (e) {
      setTrouble(errorText(e, 'The times could not be read.'))
    }
  }
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault()
        void read()
      }}
    >
      <label className="font-semibold first-letter:uppercase">
        {weekdays[item.day]}, {named[item.kind]}
        <input
          aria-invalid={trouble !== ''}
          required
          spellCheck={false}
          className="field mt-1.5 font-mono font-normal"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onFocus={(e) => e.target.select()}
        />
      </label>
      {trouble && (
        <p role="alert" className="pt-1 text-[13px] text-buoy">
          {trouble}
        </p>
      )}
      <div className="flex gap-2 pt-2.5">
        <button className="btn btn-main !min-h-8">Change</button>
        <button type="button" className="btn !min-h-8" onClick={() => done([])}>
          Remove
        </button>
      </div>
    </form>
  )
}
