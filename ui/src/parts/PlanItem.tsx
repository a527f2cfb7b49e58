import { Popover } from 'radix-ui'
import { useState, type ReactElement } from 'react'
import { clockOf, itemWords, named, weekdays, whole, type Item } from '../state/plan'

const minuteOf = (clock: string) => {
  const [h = NaN, m = NaN] = clock.split(':').map(Number)
  return h * 60 + m
}

/** One thing of the plan with its exact times, for a finger as for keys. */
export function PlanItem(props: {
  item: Item
  open: boolean
  onClose: () => void
  onChange: (now: Item) => void
  onRemove: () => void
  children: ReactElement
}) {
  return (
    <Popover.Root open={props.open} onOpenChange={(open) => !open && props.onClose()}>
      <Popover.Anchor asChild>{props.children}</Popover.Anchor>
      {props.open && (
        <Popover.Portal>
          <Popover.Content
            side="bottom"
            align="start"
            collisionPadding={8}
            aria-label={itemWords(props.item)}
            className="z-50 w-64 rounded-[12px] border border-line bg-paper p-3 text-[14px] shadow-float"
          >
            <Times {...props} />
          </Popover.Content>
        </Popover.Portal>
      )}
    </Popover.Root>
  )
}

function Times(props: { item: Item; onClose: () => void; onChange: (now: Item) => void; onRemove: () => void }) {
  const { item } = props
  const [from, setFrom] = useState(clockOf(item.from))
  const [to, setTo] = useState(clockOf(item.to % whole))
  const start = minuteOf(from)
  const end = item.kind === 'rounds' ? start : minuteOf(to) || whole // 00:00 is the day's end
  const wrong = Number.isNaN(start) || Number.isNaN(end) || (item.kind !== 'rounds' && end <= start)
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault()
        props.onClose()
        if (!wrong) props.onChange({ ...item, from: start, to: end })
      }}
    >
      <p className="pb-1.5 font-semibold first-letter:uppercase">
        {named[item.kind]}, {weekdays[item.day]}
      </p>
      <div className="flex items-center gap-2">
        <input
          type="time"
          aria-label={item.kind === 'rounds' ? 'At' : 'From'}
          className="field !w-auto !py-1"
          value={from}
          onChange={(e) => setFrom(e.target.value)}
        />
        {item.kind !== 'rounds' && (
          <>
            to
            <input
              type="time"
              aria-label="To"
              className="field !w-auto !py-1"
              value={to}
              onChange={(e) => setTo(e.target.value)}
            />
          </>
        )}
      </div>
      {wrong && (
        <p role="alert" className="pt-1 text-[13px] text-buoy">
          It ends after it begins; 00:00 is the day’s end.
        </p>
      )}
      <div className="flex gap-2 pt-2.5">
        <button className="btn btn-main !min-h-8" disabled={wrong}>
          Change
        </button>
        <button
          type="button"
          className="btn !min-h-8"
          onClick={() => {
            props.onClose()
            props.onRemove()
          }}
        >
          Remove
        </button>
      </div>
    </form>
  )
}
