import { ChevronDown, ChevronRight } from 'lucide-react'
import { useMemo, useRef, useState, type DragEvent, type ReactNode } from 'react'
import type { Board, BoardLane, FollowUp } from '../api/client'
import { useBlocks } from '../api/queries'
import { FollowCard, FollowLine } from './FollowCard'
import { AccountMark } from '../kit/Marks'
import { Rows, useRows } from '../kit/Rows'

/** What the board and the list need of the view around them. */
export interface Lanes {
  board: Board
  focus: number | undefined
  chosen: ReadonlyMap<number, number>
  /** Keys of lanes that are folded. */
  folded: ReadonlySet<string>
  stages: boolean
  onFold: (key: string) => void
  onFocus: (id: number) => void
  onToggle: (id: number) => void
  onOpen: (id: number) => void
  onComplete: (f: FollowUp) => void
  onDrop: (lane: BoardLane, ids: number[]) => void
  /** A lane can be dropped onto. */
  takes: boolean
}

const block = 24

/** The follow-ups of the ids that are in sight; those not known yet are asked
 * for a block at a time. Whoever was asked for together stays together: when one is
 * done, those after it are not asked for anew. */
function useSight(board: Board, ids: number[], from: number, to: number) {
  const first = useMemo(() => new Map(board.cards.map((f) => [f.id, f])), [board.cards])
  const [blockOf] = useState(() => new Map<number, number[]>())
  const blocks = new Set<number[]>()
  for (let i = from; i <= Math.min(to, ids.length - 1); i++) {
    const id = ids[i]
    if (id === undefined || first.has(id)) continue
    let some = blockOf.get(id)
    if (!some) {
      some = ids.slice(i, i + block).filter((one) => !first.has(one) && !blockOf.has(one))
      for (const one of some) blockOf.set(one, some)
    }
    blocks.add(some)
  }
  const more = useBlocks([...blocks])
  return (id: number): FollowUp | undefined => {
    const known = first.get(id)
    if (known) return known
    for (const q of more) {
      const found = q.data?.find((f) => f.id === id)
      if (found) return found
    }
  }
}

const tones: Record<string, string> = { overdue: 'text-buoy border-buoy', someday: 'text-ink-2 border-ink-3' }

function LaneHead({ lane, children }: { lane: BoardLane; children?: ReactNode }) {
  const over = (lane.most ?? 0) > 0 && lane.ids.length > (lane.most ?? 0)
  return (
    <>
      {lane.colour && lane.shape && (
        <AccountMark hidden account={{ label: lane.label, colour: lane.colour, shape: lane.shape }} />
      )}
      <span className="truncate">{lane.label}</span>
      <span className={`text-[13px] font-normal ${over ? 'text-buoy' : 'text-ink-3'}`}>
        {lane.ids.length}
        {lane.most ? ` of ${lane.most}${over ? ', too many' : ''}` : ''}
      </span>
      {lane.minutes > 0 && <span className="ml-auto text-[12px] font-normal text-ink-3">{lane.minutes} min</span>}
      {children}
    </>
  )
}

function useDropping(lane: BoardLane, on: Lanes) {
  const [over, setOver] = useState(false)
  return {
    over,
    props: on.takes
      ? {
          onDragOver: (e: DragEvent) => {
            if (!e.dataTransfer.types.includes('text/x-ebbe-follow-ups')) return
            e.preventDefault()
            setOver(true)
          },
          onDragLeave: () => setOver(false),
          onDrop: (e: DragEvent) => {
            const refs = e.dataTransfer.getData('text/x-ebbe-follow-ups')
            if (!refs) return
            e.preventDefault()
            setOver(false)
            on.onDrop(lane, refs.split(',').map(Number))
          },
        }
      : {},
  }
}

/** The lanes side by side. */
export function FollowBoard({ on }: { on: Lanes }) {
  return (
    <div
      className="grid min-h-0 flex-1 auto-cols-[minmax(216px,1fr)] grid-flow-col gap-3 overflow-x-auto overflow-y-hidden max-md:auto-cols-[85%]"
      role="group"
      aria-label="Lanes"
    >
      {on.board.lanes.map((lane) => (
        <Lane key={lane.key} lane={lane} on={on} />
      ))}
    </div>
  )
}

function Lane({ lane, on }: { lane: BoardLane; on: Lanes }) {
  const scroller = useRef<HTMLDivElement>(null)
  const at = on.focus === undefined ? -1 : lane.ids.indexOf(on.focus)
  const virtual = useRows(lane.ids, scroller, () => 104, {
    focus: { key: at < 0 ? undefined : on.focus, at },
    keyOf: (id) => id,
    overscan: 2,
  })
  const items = virtual.getVirtualItems()
  const card = useSight(on.board, lane.ids, items[0]?.index ?? 0, items.at(-1)?.index ?? 0)
  const { over, props } = useDropping(lane, on)
  return (
    <section
      aria-label={`${lane.label}, ${lane.ids.length}`}
      className={`flex min-h-0 min-w-0 flex-col rounded-lg ${over ? 'bg-tide-3' : ''}`}
      {...props}
    >
      <h2
        className={`flex items-baseline gap-2 border-b-2 pb-1 text-[15px] font-semibold ${tones[lane.key] ?? 'border-ink'}`}
      >
        <LaneHead lane={lane} />
      </h2>
      <div
        ref={scroller}
        data-lane={lane.key}
        role="group"
        aria-label={lane.label}
        className="min-h-0 flex-1 overflow-y-auto px-0.5 py-2"
        tabIndex={-1}
      >
        <Rows virtual={virtual} items={lane.ids}>
          {(id, { top }, key, measure) => {
            const f = card(id)
            return (
              <div key={key} {...measure} className="absolute inset-x-0.5 pb-2" style={{ top }}>
                {f ? (
                  <Shown f={f} on={on} as={FollowCard} />
                ) : (
                  <div aria-busy className="h-24 rounded-[12px] bg-shore-2" />
                )}
              </div>
            )
          }}
        </Rows>
      </div>
    </section>
  )
}

function Shown({ f, on, as: As }: { f: FollowUp; on: Lanes; as: typeof FollowCard }) {
  return (
    <As
      f={f}
      stage={on.stages ? on.board.stages.find((s) => s.id === f.stage) : undefined}
      focused={on.focus === f.id}
      chosen={on.chosen.has(f.id)}
      drags={() => (on.chosen.has(f.id) ? [...on.chosen.keys()] : [f.id]).join(',')}
      onFocus={() => on.onFocus(f.id)}
      onToggle={() => on.onToggle(f.id)}
      onOpen={() => on.onOpen(f.id)}
      onComplete={() => on.onComplete(f)}
    />
  )
}

type Item = { lane: BoardLane } | { id: number }

/** The lanes one below the other; each can be folded. */
export function FollowList({ on }: { on: Lanes }) {
  const scroller = useRef<HTMLDivElement>(null)
  const items = useMemo<Item[]>(
    () =>
      on.board.lanes
        .filter((l) => l.ids.length > 0)
        .flatMap((lane) => [{ lane }, ...(on.folded.has(lane.key) ? [] : lane.ids.map((id) => ({ id })))]),
    [on.board.lanes, on.folded],
  )
  const ids = useMemo(() => items.map((i) => ('id' in i ? i.id : -1)), [items])
  const at = on.focus === undefined ? -1 : ids.indexOf(on.focus)
  // Heights are fixed: measuring each row costs more than drawing it.
  const virtual = useRows(items, scroller, (item) => ('lane' in item ? 40 : 58), {
    focus: { key: on.focus, at },
    overscan: 4,
  })
  const seen = virtual.getVirtualItems()
  const wanted = useMemo(() => ids.filter((id) => id >= 0), [ids])
  const heads = useMemo(() => items.flatMap((item, i) => ('lane' in item ? [i] : [])), [items])
  const place = (index: number) => index - heads.filter((i) => i < index).length
  const card = useSight(on.board, wanted, place(seen[0]?.index ?? 0), place(seen.at(-1)?.index ?? 0))
  return (
    <div
      ref={scroller}
      data-scroller
      role="group"
      aria-label="Follow-ups"
      className="min-h-0 flex-1 overflow-y-auto"
      tabIndex={-1}
    >
      <Rows virtual={virtual} items={items}>
        {(item, style, key) => (
          <div key={key} className="absolute inset-x-0.5 pb-1.5 [contain:size_layout_style]" style={style}>
            {'lane' in item ? <ListHead lane={item.lane} on={on} /> : <One f={card(item.id)} on={on} />}
          </div>
        )}
      </Rows>
    </div>
  )
}

function One({ f, on }: { f: FollowUp | undefined; on: Lanes }) {
  return f ? <Shown f={f} on={on} as={FollowLine} /> : <div aria-busy className="h-12 rounded-[12px] bg-shore-2" />
}

function ListHead({ lane, on }: { lane: BoardLane; on: Lanes }) {
  const folded = on.folded.has(lane.key)
  const Arrow = folded ? ChevronRight : ChevronDown
  const { over, props } = useDropping(lane, on)
  return (
    <h2 className={`rounded-lg pt-2 ${over ? 'bg-tide-3' : ''}`} {...props}>
      <button
        aria-expanded={!folded}
        className={`flex w-full items-baseline gap-1.5 rounded-lg px-2 py-1 text-left text-[13px] font-semibold hover:bg-paper ${tones[lane.key]?.split(' ')[0] ?? 'text-ink-2'}`}
        onClick={() => on.onFold(lane.key)}
      >
        <Arrow className="size-4 self-center" aria-hidden />
        <LaneHead lane={lane} />
      </button>
    </h2>
  )
}
