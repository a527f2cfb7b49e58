import { Waves } from 'lucide-react'
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent, type ReactElement } from 'react'
import type { Plan } from '../api/client'
import { DayMenu } from '../days/DayMenu'
import { PlanItem } from './PlanItem'
import {
  clockOf,
  itemId,
  itemsOf,
  itemWords,
  keyOfItem,
  moved,
  named,
  nextTo,
  resized,
  whole,
  withItem,
  without,
  type Item,
  type Kind,
} from '../state/plan'

const hour = 30
const px = (minute: number) => (minute * hour) / 60
/** How far a drag from one minute towards another goes; a hand that shakes a
 * little goes nowhere. */
const step = (from: number, to: number) => (Math.abs(to - from) < 8 ? 0 : snap(to) - from)
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
  account: number
  tool: Kind
  weekStart: number
  today: number
  now: number
  /** The dates that are shown, by weekday. */
  week: string[]
  onChange: (plan: Plan) => void
}) {
  const { plan, account, tool, onChange } = props
  const days = Array.from({ length: 7 }, (_, i) => (props.weekStart + i) % 7)
  const scroller = useRef<HTMLDivElement>(null)
  const [drag, setDrag] = useState<Dragged>()
  const focus = useRef<string>(undefined)
  const [editing, setEditing] = useState<string>()
  useEffect(() => {
    scroller.current?.scrollTo({ top: px(6 * 60) })
  }, [])
  useEffect(() => {
    const target = focus.current && document.getElementById(focus.current)
    if (!target) return
    target.focus()
    focus.current = undefined // once; the plan may change elsewhere too
  })
  const put = (was: Item | undefined, ...now: Item[]) => {
    let next = was ? without(plan, was) : plan
    let first: Item | undefined = was && now.length === 0 ? nextTo(next, was) : undefined
    for (const n of now) {
      const out = withItem(next, n)
      next = out.plan
      first ??= out.item
    }
    focus.current = first && itemId(first)
    onChange(next)
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
    setDrag(
      was
        ? { was, now: was, mode, grab: minute - (mode === 'end' ? was.to : was.from) }
        : { now: { day, kind: tool, from, to: tool === 'rounds' ? from : from + 15 }, mode: 'new', grab: from },
    )
  }
  const dragTo = (d: Dragged, e: PointerEvent): Dragged => {
    const { day, minute } = at(e)
    if (d.was && d.mode === 'move') {
      const to = moved(d.was, step(d.was.from, minute - d.grab))
      return { ...d, now: { ...to, day: day ?? d.now.day } }
    }
    if (d.was) return { ...d, now: resized(d.was, step(d.was.to, minute - d.grab)) }
    const m = snap(minute)
    const [from, to] =
      d.now.kind === 'rounds' ? [Math.min(m, whole - 15)] : [Math.min(d.grab, m), Math.max(d.grab + 15, m)]
    return { ...d, now: { ...d.now, from, to: to ?? from } }
  }
  const move = (e: PointerEvent) => drag && setDrag(dragTo(drag, e))
  const up = (e: PointerEvent) => {
    if (!drag) return
    setDrag(undefined)
    const { was, now } = dragTo(drag, e) // where it was let go may not be drawn yet
    if (was && keyOfItem(was) === keyOfItem(now) && was.to === now.to) setEditing(keyOfItem(was))
    else put(was, now)
  }
  const keys = (e: KeyboardEvent, item: Item) => {
    const step = e.altKey ? 5 : 15
    const sign = e.key === 'ArrowDown' ? 1 : e.key === 'ArrowUp' ? -1 : 0
    const aside = e.key === 'ArrowRight' ? 1 : e.key === 'ArrowLeft' ? -1 : 0
    if (sign !== 0) put(item, e.shiftKey ? resized(item, sign * step) : moved(item, sign * step))
    else if (aside !== 0) put(item, { ...item, day: (item.day + aside + 7) % 7 })
    else if (e.key === 'Delete' || e.key === 'Backspace') {
      put(item)
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
                  account={account}
                  onOpen={() => setEditing(keyOfItem(i))} // by key or finger; up sees to the mouse
                  onClose={() => setEditing(undefined)}
                  onChange={(now) => put(i, ...now)}
                />
              ))}
            {(plan.kinds ?? [])
              .filter((k) => k.day === d)
              .map((k) => (
                <span
                  key={`${k.kind}${k.at}`}
                  className="pointer-events-none absolute right-1 z-10 flex items-center gap-1 rounded bg-paper/80 px-1 text-[11px] leading-4 font-medium text-kelp"
                  style={{ top: px(k.at) - 8 }}
                >
                  <Waves className="size-3 shrink-0" aria-hidden />
                  <span className="truncate max-md:sr-only">
                    {k.kind} {clockOf(k.at)}
                  </span>
                </span>
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
  onUp: (e: PointerEvent) => void
  onKey: (e: KeyboardEvent, item: Item) => void
  editing: boolean
  account: number
  onOpen: () => void
  onClose: () => void
  onChange: (now: Item[]) => void
}) {
  const { item: i } = props
  const times = (block: ReactElement) => (
    <PlanItem item={i} account={props.account} open={props.editing} onClose={props.onClose} onChange={props.onChange}>
      {block}
    </PlanItem>
  )
  const common = {
    id: props.dragging ? undefined : itemId(i),
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
