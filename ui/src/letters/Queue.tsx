import { Check, Hourglass, KeyRound, NotebookPen, Paperclip, Signpost, Waves } from 'lucide-react'
import { memo, useContext, useEffect, useLayoutEffect, useMemo, useRef, type DragEvent, type ReactNode } from 'react'
import type { Row } from '../api/client'
import { useAccounts } from '../api/queries'
import { targetOf, type Listing } from '../state/listing'
import { density, rowHeights } from '../state/density'
import { drag } from '../state/dragging'
import { keyName, useKeyOf } from '../state/keys'
import { SaysWhere, useLine } from '../state/seeking'
import { passOver } from '../state/sorting'
import { age, fullStamp, useMinute } from '../state/time'
import { LabelName } from '../kit/LabelChip'
import { AccountMark, FlagMark, StarMark } from '../kit/Marks'
import { WithHits } from '../kit/WithHits'
import { CouldNotRead } from '../kit/CouldNotRead'
import { Rows, useRows } from '../kit/Rows'

/** Heights of the heads of groups, in CSS pixels. */
const headHeights = { roomy: 36, compact: 20 } as const

type Head = { head: string; count: number; before: number; kind?: NonNullable<Row['group']['kind']> }
type Item = Head | { row: Row; index: number }
const keyOfItem = (item: Item) => ('head' in item ? -item.before : item.row.id)

/** The list of letters, grouped by how they came. Only what is in sight is in
 * the page, so ten thousand scroll as easily as ten. */
export function Queue({
  listing,
  grouped,
  empty,
  swipe,
}: {
  listing: Listing
  grouped?: boolean
  empty: ReactNode
  swipe?: (row: Row, to: 'left' | 'right') => void
}) {
  const { rows, index, list } = listing
  useMinute() // ages are told as of now
  const compact = density.use() === 'compact'
  const rowHeight = rowHeights[compact ? 'compact' : 'roomy']
  const headHeight = headHeights[compact ? 'compact' : 'roomy']
  const scroller = useRef<HTMLDivElement>(null)
  const items = useMemo(() => withHeads(rows, grouped), [rows, grouped])
  const itemIndex = useMemo(() => items.findIndex((i) => 'row' in i && i.index === index), [items, index])
  const focusId = listing.focus?.id
  const virtual = useRows(items, scroller, (item) => ('head' in item ? headHeight : rowHeight), {
    focus: { key: focusId, at: itemIndex },
    keyOf: keyOfItem,
  })
  useLayoutEffect(() => virtual.measure(), [rowHeight, virtual])

  // A row that arrives above the one in focus does not move it.
  const before = useRef<{ id?: number; top: number }>({ top: 0 })
  useLayoutEffect(() => {
    const top = items
      .slice(0, Math.max(itemIndex, 0))
      .reduce((sum, i) => sum + ('head' in i ? headHeight : rowHeight), 0)
    const el = scroller.current
    if (el && before.current.id === focusId && top !== before.current.top && el.scrollTop > 0) {
      el.scrollTop += top - before.current.top
    }
    before.current = { id: focusId, top }
  }, [items, itemIndex, focusId, rowHeight, headHeight])

  const last = virtual.getVirtualItems().at(-1)?.index ?? 0
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = list
  useEffect(() => {
    if (hasNextPage && !isFetchingNextPage && last > items.length - 30) void fetchNextPage()
  }, [last, items.length, hasNextPage, isFetchingNextPage, fetchNextPage])

  const { data: accounts } = useAccounts()
  // What rows can do never changes, so that only rows that did are drawn anew.
  const swiping = useRef(swipe)
  useLayoutEffect(() => {
    swiping.current = swipe
  })
  const { toggle, focusOn, setReading } = listing
  const selection = useRef(listing.selected)
  useLayoutEffect(() => {
    selection.current = listing.selected
  })
  const acts = useMemo(
    () => ({
      toggle,
      open: (row: Row) => {
        focusOn(row.id)
        setReading(true)
      },
      swipe: (row: Row, to: 'left' | 'right') => swiping.current?.(row, to),
      drag: (e: DragEvent, row: Row) => {
        const all = selection.current
        drag(e, all.has(row.id) ? [...all.values()] : [targetOf(row)])
      },
    }),
    [toggle, focusOn, setReading],
  )
  if (list.isPending) return <Loading />
  if (list.isError && rows.length === 0) return <CouldNotRead what="The list" error={list.error} again={list.refetch} />
  if (rows.length === 0) return <>{empty}</>
  return (
    <div
      ref={scroller}
      className="min-h-0 flex-1 overflow-y-auto pb-2"
      role="listbox"
      aria-label="Letters"
      aria-multiselectable
      data-home
      tabIndex={0}
      aria-activedescendant={focusId ? `row-${focusId}` : undefined}
    >
      <Rows virtual={virtual} items={items}>
        {(item, style, key) =>
          'head' in item ? (
            <div
              key={key}
              role="presentation"
              className={`absolute inset-x-0 flex items-end gap-2 px-3 text-[13px] font-semibold text-ink-2 ${compact ? '' : 'pb-1.5'}`}
              style={style}
            >
              {item.kind && <Waves className="size-4 shrink-0 self-center text-kelp" aria-hidden />}
              <span className={item.kind ? 'min-w-0 truncate self-center' : undefined}>{item.head}</span>{' '}
              <span className={`font-normal text-ink-3 ${item.kind ? 'self-center' : ''}`}>{item.count}</span>
              {item.kind && <PassOver kind={item.kind} />}
            </div>
          ) : (
            <div
              key={key}
              role="presentation"
              className="absolute inset-x-0 px-1 [contain:size_layout_style]"
              style={style}
            >
              <QueueRow
                row={item.row}
                place={listing.key.name}
                focused={item.index === index}
                selected={listing.selected.has(item.row.id)}
                selecting={listing.selected.size > 0}
                age={age(item.row.at)}
                accounts={accounts}
                compact={compact}
                acts={acts}
              />
            </div>
          )
        }
      </Rows>
    </div>
  )
}

/** Lets what has come up lie in the Shallows; its key does the same from each of its rows. */
function PassOver({ kind }: { kind: NonNullable<Row['group']['kind']> }) {
  const keyFor = useKeyOf()
  return (
    <>
      <span className="flex-1" />
      <button
        tabIndex={-1}
        aria-hidden
        className="btn btn-small btn-tight self-center text-[13px] !font-normal"
        onClick={() => passOver(kind)}
      >
        Pass over <span className="key max-md:hidden">{keyName(keyFor('passOver'))}</span>
      </button>
    </>
  )
}

type Accounts = ReturnType<typeof useAccounts>['data']

function accountMark(accounts: Accounts, row: Row) {
  if (!accounts || accounts.length < 2) return null
  return accounts
    .map((a, i) => ({ a, i }))
    .filter(({ a, i }) => row.accounts.includes(a.id) && (i > 0 || row.accounts.length > 1))
    .map(({ a }) => <AccountMark key={a.id} account={a} />)
}

function withHeads(rows: Row[], grouped?: boolean): Item[] {
  if (!grouped) return rows.map((row, index) => ({ row, index }))
  const counts = new Map<string, number>()
  for (const r of rows) counts.set(r.group.label, (counts.get(r.group.label) ?? 0) + 1)
  const out: Item[] = []
  rows.forEach((row, index) => {
    if (row.group.label !== rows[index - 1]?.group.label)
      out.push({
        head: row.group.label,
        count: counts.get(row.group.label) ?? 0,
        before: row.id,
        ...(row.group.kind ? { kind: row.group.kind } : {}),
      })
    out.push({ row, index })
  })
  return out
}

interface Acts {
  toggle: (row: Row) => void
  open: (row: Row) => void
  swipe: (row: Row, to: 'left' | 'right') => void
  drag: (e: DragEvent, row: Row) => void
}

const QueueRow = memo(function QueueRow({
  row,
  place,
  focused,
  selected,
  selecting,
  age,
  accounts,
  compact,
  acts,
}: {
  row: Row
  place: string
  focused: boolean
  selected: boolean
  selecting: boolean
  age: string
  accounts: Accounts
  compact: boolean
  acts: Acts
}) {
  const swipes = useSwipe((to) => acts.swipe(row, to))
  const flag = row.followUps.some((f) => f.flag)
  const due = row.followUps.find((f) => f.due)
  const line = useLine(useContext(SaysWhere), row.letter)
  const who = row.to ? `To ${row.to.join(', ')}` : row.from.name || row.from.email || 'No sender named'
  return (
    <div
      id={`row-${row.id}`}
      role="option"
      aria-selected={selected || (focused && !selecting)}
      {...swipes}
      draggable
      onDragStart={(e) => acts.drag(e, row)}
      onClick={(e) => {
        if (e.metaKey || e.ctrlKey) return acts.toggle(row)
        acts.open(row)
      }}
      className={`relative flex touch-pan-y cursor-pointer gap-2 rounded-[12px] border px-2.5 ${compact ? 'h-[43px] py-0.5 leading-tight' : 'h-[56px] py-1.5'} ${
        focused
          ? 'border-tide bg-paper shadow-sm ring-1 ring-tide'
          : selected
            ? 'border-transparent bg-tide-2 [&_.text-ink-3]:!text-ink-2'
            : 'border-transparent hover:bg-paper/70'
      }`}
    >
      <span
        aria-hidden
        title={selected ? 'Deselect' : 'Select'}
        onClick={(e) => {
          e.stopPropagation()
          acts.toggle(row)
        }}
        className="group flex w-6 shrink-0 items-start justify-center pt-1"
      >
        {selected || selecting ? (
          <span
            className={`grid size-4 place-items-center rounded border ${selected ? 'border-tide bg-tide text-paper' : 'border-ink-3'}`}
          >
            {selected && <Check className="size-3" />}
          </span>
        ) : (
          <>
            <span
              className={`mt-1 size-2 rounded-full group-hover:hidden ${row.unread ? 'bg-tide' : 'bg-transparent'}`}
            />
            <span className="hidden size-4 rounded border border-ink-3 group-hover:block" />
          </>
        )}
      </span>
      <div className="min-w-0 flex-1">
        <div className="flex items-baseline gap-1.5">
          <span
            className={`truncate text-[14.5px] ${row.unread ? 'font-bold' : 'font-semibold'}`}
            style={{ flex: '0 1 auto', maxWidth: '52%' }}
          >
            {row.unread && <span className="sr-only">unread, </span>}
            <WithHits text={who} hits={row.marked?.from} />
          </span>
          {accountMark(accounts, row)}
          {row.letters > 1 && <span className="text-[13px] text-ink-3">{row.letters}</span>}
          {row.star && <StarMark />}
          {flag && <FlagMark />}
          {row.waiting.length > 0 && (
            <Hourglass
              role="img"
              aria-label={`waiting for ${row.waiting.join(', ')}`}
              className="size-3.5 shrink-0 self-center text-heather"
            />
          )}
          {row.high && (
            <span className="flex shrink-0 items-center self-center text-tide" title={`Ranked high: ${row.high}`}>
              <Signpost role="img" aria-label={`ranked high: ${row.high}`} className="size-3.5" />
            </span>
          )}
          {row.through && place === 'inbox' && (
            <KeyRound
              role="img"
              aria-label={`let through: ${row.through}`}
              className="size-3.5 shrink-0 self-center text-tide"
            />
          )}
          <span className="min-w-0 flex-1 truncate text-[14.5px]">
            <WithHits text={row.title} hits={row.marked?.title} />
          </span>
          {row.noted && (
            <span className="flex items-center text-heather" title="With your note">
              <NotebookPen aria-label="With your note" className="size-3.5" />
            </span>
          )}
          {row.attachments > 0 && (
            <span className="flex items-center text-[12px] text-ink-3" title={`${row.attachments} attached`}>
              <Paperclip aria-label={`${row.attachments} attached`} className="size-3.5" />
            </span>
          )}
          <time className="shrink-0 text-[13px] text-ink-3" dateTime={row.at} title={fullStamp(row.at)}>
            {age}
          </time>
        </div>
        <div className={`flex items-center gap-1.5 ${compact ? '' : 'mt-0.5'}`}>
          <span
            data-ask
            className={`min-w-0 flex-1 truncate text-[13.5px] ${line?.line || row.asks ? 'text-ink-2' : 'text-ink-3'}`}
            title={line?.line || row.ask}
          >
            {line?.line ? <WithHits text={line.line} hits={line.marked} /> : row.ask || 'No text'}
          </span>
          {/* The line is the ask's; what else there is to say is brief, the most urgent first. */}
          <span className="flex max-w-[45%] min-w-0 gap-1.5 overflow-hidden empty:hidden max-md:max-w-[36%] [&>*]:truncate">
            {row.why && place === 'inbox' && (
              <span
                className={`chip ${row.failed ? '!bg-buoy-2 !text-buoy' : '!bg-tide-2 !text-tide'}`}
                title={row.back}
              >
                {row.why}
              </span>
            )}
            {due && (
              <span
                className={`chip ${due.late ? '!bg-buoy-2 !text-buoy' : '!bg-lamp-2 !text-lamp'}`}
                title={due.title}
              >
                {due.late ? `late: ${due.due}` : due.due}
              </span>
            )}
            {place === 'bin' && <span className="chip">{row.daysLeft} days left</span>}
            {place === 'search' && (
              <span className="chip">
                {(row.marked?.letters.length ?? 0) > 1 && `${row.marked?.letters.length} of ${row.letters} · `}
                {row.place}
              </span>
            )}
            {row.labels.slice(0, 2).map((l) => (
              <span key={l} className="chip max-w-24 max-md:hidden">
                <LabelName name={l} />
              </span>
            ))}
          </span>
        </div>
      </div>
    </div>
  )
})

/** A finger that moves a row far enough to one side decides. */
function useSwipe(decide: (to: 'left' | 'right') => void) {
  const start = useRef<{ x: number; y: number }>(undefined)
  const el = (e: React.PointerEvent) => e.currentTarget as HTMLElement
  return {
    onPointerDown: (e: React.PointerEvent) => {
      if (e.pointerType === 'touch') start.current = { x: e.clientX, y: e.clientY }
    },
    onPointerMove: (e: React.PointerEvent) => {
      if (!start.current) return
      const dx = e.clientX - start.current.x
      if (Math.abs(dx) > 12) el(e).style.transform = `translateX(${dx}px)`
    },
    onPointerUp: (e: React.PointerEvent) => {
      const dx = start.current ? e.clientX - start.current.x : 0
      start.current = undefined
      el(e).style.transform = ''
      if (Math.abs(dx) > 100) decide(dx > 0 ? 'right' : 'left')
    },
    onPointerCancel: (e: React.PointerEvent) => {
      start.current = undefined
      el(e).style.transform = ''
    },
  }
}

function Loading() {
  return (
    <div role="status" aria-busy aria-label="Reading the list" className="flex-1 space-y-1 overflow-hidden p-1">
      {Array.from({ length: 8 }, (_, i) => (
        <div key={i} className="h-14 animate-pulse rounded-[12px] bg-shore-2" />
      ))}
    </div>
  )
}
