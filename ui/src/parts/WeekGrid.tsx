import { ChevronDown } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent, type ReactElement } from 'react'
import type { Plan } from '../api/client'
import { PlanItem } from './PlanItem'
import {
  change,
  cleared,
  clockOf,
  copied,
  dayWords,
  itemsOf,
  itemWords,
  keyOfItem,
  moved,
  named,
  resized,
  weekdays,
  whole,
  withItem,
  without,
  type Item,
  type Kind,
} from '../state/plan'

const hour = 30
const px = (minute: number) => (minute * hour) / 60
const snap = (minute: number) => Math.min(whole, Math.max(0, Math.round(minute / 15) * 15))

interface Dragged {
  was?: Item
  now: Item
  mode: 'move' | 'end' | 'new'
  grab: number
}

/** The week as it is planned. Drag over a day to add, drag a thing to move it,
 * its lower edge to make it longer; arrow keys do the same, and a click or tap
 * asks for its times. */
export function WeekGrid(props: {
  plan: Plan
  tool: Kind
  weekStart: number
  today: number
  now: number
  /** The dates that are shown, by weekday. */
  week: string[]
  onChange: (plan: Plan) => void
}) {
  const { plan, tool, onChange } = props
  const days = Array.from({ length: 7 }, (_, i) => (props.weekStart + i) % 7)
  const scroller = useRef<HTMLDivElement>(null)
  const [drag, setDrag] = useState<Dragged>()
  const [focus, setFocus] = useState<string>()
  const [editing, setEditing] = useState<string>()
  const dragged = useRef(false)
  useEffect(() => {
    scroller.current?.scrollTo({ top: px(6 * 60) })
  }, [])
  useEffect(() => {
    if (focus) document.getElementById(`plan-${focus}`)?.focus()
  }, [focus, plan])
  const put = (was: Item | undefined, now: Item) => {
    const out = was ? change(plan, was, now) : withItem(plan, now)
    onChange(out.plan)
    setFocus(keyOfItem(out.item))
  }
  const at = (e: PointerEvent) => {
    const columns = [...(scroller.current?.querySelectorAll<HTMLElement>('[data-day]') ?? [])]
    const column = columns.find((c) => {
      const box = c.getBoundingClientRect()
      return e.clientX >= box.left && e.clientX < box.right
    })
    const box = (column ?? columns[0])?.getBoundingClientRect()
    return {
      day: column ? Number(column.dataset['day']) : undefined,
      minute: ((e.clientY - (box?.top ?? 0)) / hour) * 60,
    }
  }
  const down = (e: PointerEvent, was?: Item, mode: Dragged['mode'] = 'move') => {
    if (e.button !== 0 || e.pointerType === 'touch') return // a finger scrolls; the days' menus add
    const { day, minute } = at(e)
    if (day === undefined) return
    e.stopPropagation()
    e.currentTarget.setPointerCapture(e.pointerId)
    const from = snap(minute)
    dragged.current = false
    setDrag(
      was
        ? { was, now: was, mode, grab: minute - was.from }
        : { now: { day, kind: tool, from, to: tool === 'rounds' ? from : from + 15 }, mode: 'new', grab: from },
    )
  }
  const move = (e: PointerEvent) => {
    if (!drag) return
    const { day, minute } = at(e)
    const now = { ...drag.now, day: drag.mode === 'move' ? (day ?? drag.now.day) : drag.now.day }
    if (drag.mode === 'move' && drag.was) {
      const to = moved(drag.was, snap(minute - drag.grab) - drag.was.from)
      setDrag({ ...drag, now: { ...to, day: now.day } })
    } else if (drag.mode === 'end' && drag.was) {
      setDrag({ ...drag, now: resized(drag.was, snap(minute) - drag.was.to) })
    } else if (now.kind === 'rounds') {
      const from = Math.min(snap(minute), whole - 15)
      setDrag({ ...drag, now: { ...now, from, to: from } })
    } else {
      const m = snap(minute)
      setDrag({ ...drag, now: { ...now, from: Math.min(drag.grab, m), to: Math.max(drag.grab + 15, m) } })
    }
  }
  const up = () => {
    if (!drag) return
    setDrag(undefined)
    if (drag.mode !== 'new' && drag.was && keyOfItem(drag.was) === keyOfItem(drag.now) && drag.was.to === drag.now.to)
      return setFocus(keyOfItem(drag.was))
    dragged.current = true
    put(drag.was, drag.now)
  }
  const keys = (e: KeyboardEvent, item: Item) => {
    const step = e.altKey ? 5 : 15
    const sign = e.key === 'ArrowDown' ? 1 : e.key === 'ArrowUp' ? -1 : 0
    const aside = e.key === 'ArrowRight' ? 1 : e.key === 'ArrowLeft' ? -1 : 0
    if (sign !== 0) put(item, e.shiftKey ? resized(item, sign * step) : moved(item, sign * step))
    else if (aside !== 0) put(item, { ...item, day: (item.day + aside + 7) % 7 })
    else if (e.key === 'Delete' || e.key === 'Backspace') {
      onChange(without(plan, item))
      setFocus(undefined)
    } else return
    e.preventDefault()
    e.stopPropagation()
  }
  const items = itemsOf(plan).filter((i) => !drag?.was || keyOfItem(i) !== keyOfItem(drag.was))
  const shown = drag ? [...items, drag.now] : items
  return (
    <div
      ref={scroller}
      data-own-keys
      aria-label="The week’s plan"
      role="group"
      className="min-h-0 flex-1 overflow-auto rounded-[14px]"
    >
      <div className="sticky top-0 z-20 grid grid-cols-[36px_repeat(7,minmax(0,1fr))] gap-x-1.5 bg-shore pb-1 max-md:gap-x-0.5">
        <span />
        {days.map((d) => (
          <DayMenu
            key={d}
            day={d}
            today={props.today}
            date={props.week[d] ?? ''}
            plan={plan}
            onChange={onChange}
            onAdd={put}
          />
        ))}
      </div>
      <div className="grid grid-cols-[36px_repeat(7,minmax(0,1fr))] gap-x-1.5 max-md:gap-x-0.5">
        <div className="relative" style={{ height: px(whole) }} aria-hidden>
          {Array.from({ length: 12 }, (_, i) => (
            <span
              key={i}
              className="absolute right-1 -translate-y-1/2 text-[12px] text-ink-3"
              style={{ top: px(i * 120) }}
            >
              {i > 0 && String(i * 2).padStart(2, '0')}
            </span>
          ))}
        </div>
        {days.map((d) => (
          <div
            key={d}
            data-day={d}
            className="relative overflow-hidden rounded-lg bg-paper/60 select-none"
            style={{
              height: px(whole),
              backgroundImage: `repeating-linear-gradient(to bottom, transparent 0 ${px(120) - 1}px, var(--line) ${px(120) - 1}px ${px(120)}px)`,
            }}
            onPointerDown={(e) => down(e)}
            onPointerMove={move}
            onPointerUp={up}
            onPointerCancel={() => setDrag(undefined)}
          >
            {shown
              .filter((i) => i.day === d)
              .map((i) => (
                <Block
                  key={`${keyOfItem(i)}${drag?.now === i ? '-drag' : ''}`}
                  item={i}
                  dragging={drag?.now === i}
                  editing={editing === keyOfItem(i)}
                  onDown={down}
                  onMove={move}
                  onUp={up}
                  onKey={keys}
                  onOpen={() => !dragged.current && setEditing(keyOfItem(i))}
                  onClose={() => setEditing(undefined)}
                  onChange={(now) => put(i, now)}
                  onRemove={() => onChange(without(plan, i))}
                />
              ))}
            {d === props.today && (
              <div
                aria-hidden
                className="pointer-events-none absolute inset-x-0 z-10 border-t-2 border-ink"
                style={{ top: px(props.now) }}
              />
            )}
          </div>
        ))}
      </div>
    </div>
  )
}

function Block(props: {
  item: Item
  dragging: boolean
  onDown: (e: PointerEvent, was?: Item, mode?: Dragged['mode']) => void
  onMove: (e: PointerEvent) => void
  onUp: () => void
  onKey: (e: KeyboardEvent, item: Item) => void
  editing: boolean
  onOpen: () => void
  onClose: () => void
  onChange: (now: Item) => void
  onRemove: () => void
}) {
  const { item: i } = props
  const times = (block: ReactElement) => (
    <PlanItem item={i} open={props.editing} onClose={props.onClose} onChange={props.onChange} onRemove={props.onRemove}>
      {block}
    </PlanItem>
  )
  const common = {
    id: props.dragging ? undefined : `plan-${keyOfItem(i)}`,
    'aria-label': `${itemWords(i)}. Enter sets its times, arrow keys move it, Shift makes it longer or shorter, Delete removes it.`,
    title: itemWords(i),
    onPointerDown: (e: PointerEvent) => props.onDown(e, i),
    onPointerMove: props.onMove,
    onPointerUp: props.onUp,
    onKeyDown: (e: KeyboardEvent) => props.onKey(e, i),
    onClick: props.onOpen,
  }
  if (i.kind === 'rounds')
    return times(
      <button
        {...common}
        className="group absolute inset-x-0 z-10 h-6 cursor-grab text-left focus-visible:!outline-offset-[-2px]"
        style={{ top: px(i.from) - 3 }}
      >
        <span className="absolute inset-x-0 top-[3px] border-t-2 border-tide" />
        <span className="absolute top-[5px] left-2 size-0 border-x-[5px] border-t-[7px] border-x-transparent border-t-tide" />
        <span className="absolute top-[5px] left-6 rounded bg-paper/70 px-0.5 text-[12px] leading-[15px] font-semibold max-md:hidden">
          {clockOf(i.from)}
        </span>
      </button>,
    )
  const tall = i.to - i.from >= 60
  return times(
    <button
      {...common}
      className={`absolute flex cursor-grab items-start overflow-hidden rounded-lg px-2 py-1 text-left text-[12px] leading-4 focus-visible:!outline-offset-[-2px] max-md:px-0.5 ${i.kind === 'closed' ? 'inset-x-1 border border-heather/40 bg-heather-2 text-heather' : 'hatched inset-x-0 bg-shore-2 text-ink-2'}`}
      style={{ top: px(i.from), height: Math.max(px(i.to - i.from), 8) }}
    >
      {tall && (
        <span className="pointer-events-none block max-md:hidden">
          <b className="block font-semibold">{named[i.kind]}</b> {clockOf(i.from)} to {clockOf(i.to)}
        </span>
      )}
      <span
        aria-hidden
        className="absolute inset-x-0 bottom-0 h-2 cursor-ns-resize"
        onPointerDown={(e) => props.onDown(e, i, 'end')}
        onPointerMove={props.onMove}
        onPointerUp={props.onUp}
      />
    </button>,
  )
}

const entry = 'cursor-pointer rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2'

function DayMenu(props: {
  day: number
  today: number
  date: string
  plan: Plan
  onChange: (plan: Plan) => void
  onAdd: (was: undefined, now: Item) => void
}) {
  const { day, plan } = props
  const workdays = [1, 2, 3, 4, 5].filter((d) => d !== day)
  const all = [0, 1, 2, 3, 4, 5, 6].filter((d) => d !== day)
  const number = Number(props.date.slice(-2))
  const exception = plan.exceptions.find((e) => e.date === props.date)
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className={`flex min-w-0 items-center gap-1 rounded-lg px-1 py-1 text-[14px] hover:bg-paper ${day === props.today ? 'font-bold' : 'font-medium text-ink-2'}`}
        aria-label={`${weekdays[day]?.slice(0, 3)} ${number}, ${weekdays[day]}: add, copy or clear${exception ? `. This one is an exception: ${exception.name} ${dayWords(exception)}` : ''}`}
      >
        <span className="truncate">
          {weekdays[day]?.slice(0, 3)} <span className="max-md:hidden">{number}</span>
        </span>
        {exception && (
          <span className="min-w-0 truncate text-[12px] font-medium text-lamp" title={dayWords(exception)}>
            <span className="max-md:hidden">{exception.name || 'exception'}</span>
            <span className="md:hidden">*</span>
          </span>
        )}
        <ChevronDown className="size-3.5 shrink-0 text-ink-3 max-md:hidden" aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className="z-50 min-w-48 rounded-[12px] border border-line bg-paper p-1.5 shadow-float"
          onCloseAutoFocus={(e) => e.preventDefault()}
        >
          <DropdownMenu.Item
            className={entry}
            onSelect={() => props.onAdd(undefined, { day, kind: 'rounds', from: 720, to: 720 })}
          >
            Add a round
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={entry}
            onSelect={() => props.onAdd(undefined, { day, kind: 'closed', from: 540, to: 660 })}
          >
            Add a closed block
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={entry}
            onSelect={() => props.onAdd(undefined, { day, kind: 'quiet', from: 1080, to: whole })}
          >
            Add quiet hours
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          <DropdownMenu.Item className={entry} onSelect={() => props.onChange(copied(plan, day, [(day + 1) % 7]))}>
            Copy to {weekdays[(day + 1) % 7]}
          </DropdownMenu.Item>
          <DropdownMenu.Item className={entry} onSelect={() => props.onChange(copied(plan, day, workdays))}>
            Copy to Monday to Friday
          </DropdownMenu.Item>
          <DropdownMenu.Item className={entry} onSelect={() => props.onChange(copied(plan, day, all))}>
            Copy to every day
          </DropdownMenu.Item>
          <DropdownMenu.Item className={entry} onSelect={() => props.onChange(cleared(plan, day))}>
            Clear the day
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
