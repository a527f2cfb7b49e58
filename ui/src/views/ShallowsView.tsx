import { MailX, Settings2, Sparkle } from 'lucide-react'
import { useMemo, useRef, useState, type DragEvent } from 'react'
import type { Conversation, Row, Shallows, Shoal, ShoalLine } from '../api/client'
import { client, conversationQuery, useConversation, useShallows } from '../api/queries'
import { useDeciding } from '../deciding/useDeciding'
import { CouldNotRead } from '../kit/CouldNotRead'
import { part } from '../kit/part'
import { Rows, useRows } from '../kit/Rows'
import { Deck } from '../letters/Deck'
import { readOn, SheetBeside } from '../letters/SheetBeside'
import { Gauge } from '../shallows/Gauge'
import { Line } from '../shallows/Line'
import { carryOut, decisionOn, told, undo, type DecisionBody } from '../state/commands'
import { drag, dragged, letters } from '../state/dragging'
import { focusOn as giveFocusTo } from '../state/focus'
import { shallowsWithout, useHidden } from '../state/hiding'
import { keyName, useKeyOf, type Handlers } from '../state/keys'
import { useLatest } from '../state/latest'
import { targetOf, type Targets } from '../state/listing'
import { star } from '../state/marking'
import { useRowFocus, useRowKeys } from '../state/rows'
import { leavingOf, refuse, sortTo, type Kind } from '../state/sorting'
import { stamp } from '../state/time'
import { composing } from '../state/writing'
import { grouping } from '../state/grouping'
import { GroupChoice } from './GroupChoice'

const GroupedView = part(() => import('./GroupedView').then((m) => m.GroupedView))
const SortDialog = part(() => import('../letters/SortDialog').then((m) => m.SortDialog))
const ClearingDialog = part(() => import('../shallows/ClearingDialog').then((m) => m.ClearingDialog))
const FirstSortedDialog = part(() => import('../shallows/ClearingDialog').then((m) => m.FirstSortedDialog))
const KindsDialog = part(() => import('../shallows/KindsDialog').then((m) => m.KindsDialog))

/** What can take the focus: a kind, a line of it, or a letter of a line that is unfolded. */
interface Item {
  key: string
  shoal: Shoal
  line?: ShoalLine
  row?: Row
}

const keyOf = (i: Item) => i.key
const idOf = (i: Item) => `shallow-${i.key.replaceAll(' ', '-')}`
const rowsOf = (i: Item): Row[] => (i.row ? [i.row] : i.line ? i.line.rows : i.shoal.lines.flatMap((l) => l.rows))
const targetsOf = (i: Item): Targets => rowsOf(i).map(targetOf)

/** What is sorted out of the inbox, by kind, each laid out for what it is. */
export function ShallowsView() {
  const { data, isPending, isError, error, refetch } = useShallows()
  const by = grouping.use().shallows
  if (by)
    return (
      <GroupedView
        key={by}
        ask={{ place: 'shallows', by, account: 0 }}
        head={
          <div className="flex h-12 shrink-0 items-center gap-2 px-2">
            <h1 className="text-[20px] font-bold">Shallows</h1>
            <span className="flex-1" />
            <GroupChoice place="shallows" />
          </div>
        }
        empty={<p className="p-6 text-ink-2">Nothing lies here.</p>}
      />
    )
  if (data) return <Lying whole={data} />
  return (
    <main className="flex min-h-0 flex-1 flex-col p-4" aria-label="Shallows">
      {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {isError && <CouldNotRead what="The Shallows" error={error} again={refetch} />}
    </main>
  )
}

function Lying({ whole }: { whole: Shallows }) {
  const hidden = useHidden()
  const data = useMemo(() => shallowsWithout(whole, hidden), [whole, hidden])
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(new Set())
  const [reading, setReading] = useState(false)
  /** The kind out of which something is dragged. */
  const [dragging, setDragging] = useState<Kind>()
  const [asking, setAsking] = useState<'sort' | 'kinds' | 'clearing' | 'first'>()
  const keyFor = useKeyOf()
  const kinds = useMemo(() => data.kinds.filter((k) => k.n > 0), [data])
  const items = useMemo(
    () =>
      kinds.flatMap((shoal): Item[] => [
        { key: `kind ${shoal.kind}`, shoal },
        ...shoal.lines.flatMap((line): Item[] => [
          { key: line.key, shoal, line },
          ...(unfolded.has(line.key) && line.rows.length > 1
            ? line.rows.map((row) => ({ key: `row ${row.id}`, shoal, line, row }))
            : []),
        ]),
      ]),
    [kinds, unfolded],
  )
  const list = useRowFocus<Item, string, Targets>({
    rows: items,
    keyOf,
    pick: targetsOf,
    initial: () => items[1]?.key,
    onMove: (i) => giveFocusTo(idOf(i)),
  })
  const { focus } = list
  const first = focus && rowsOf(focus)[0]
  const { data: open } = useConversation(focus?.line ? first?.id : undefined)
  const targets = (): Targets =>
    list.selected.size > 0
      ? [...new Map([...list.selected.values()].flat().map((t) => [t.id, t])).values()]
      : focus
        ? targetsOf(focus)
        : []
  const many = targets().length
  const decide = (body: DecisionBody, on: Targets) => {
    if (on.length === 0) return
    list.clear()
    void carryOut(
      decisionOn(
        body,
        on,
        on.map((t) => t.id),
      ),
    ).then(told)
  }
  const deciding = useDeciding({
    targets,
    row: first,
    open,
    rowOf: (id) => items.flatMap(rowsOf).find((r) => r.id === id),
    selected: many > 1 ? many : 0,
    place: 'shallows',
    decide,
    stay: (body, on) => void carryOut(decisionOn(body, on)),
    write: (start: (c: Conversation) => void) => {
      if (!first) return
      void client.fetchQuery(conversationQuery(first.id)).then((c) => {
        setReading(true)
        start(c)
      })
    },
    undo: () => void undo(),
  })
  /** What is dragged to another kind goes there from now on, as by its digit. */
  const drop = (e: DragEvent, kind: Kind) => {
    const from = dragging
    setDragging(undefined)
    if (!dragged(e) || kind === from) return
    e.preventDefault()
    list.clear()
    sortTo(letters(e), kind, 'address')
  }
  const unfold = (key: string) =>
    setUnfolded((was) => {
      const now = new Set(was)
      if (!now.delete(key)) now.add(key)
      return now
    })
  const keys: Handlers = {
    ...deciding.press,
    // From here the inbox is a correction: letters like it go there from now on.
    fetch: () => (list.clear(), sortTo(targets(), 'person', 'address')),
    sort: () => first && setAsking('sort'),
    clear: () => setAsking('clearing'),
    undo: () => void undo(),
    star: () => open && star(open),
    flag: () => void carryOut({ path: 'flag', body: { on: targets() } }),
    label: () => deciding.ask('label'),
    open: () => {
      if (!focus) return
      if (!focus.line) return list.move(1)
      if (focus.line.rows.length > 1 && !focus.row) return unfold(focus.line.key)
      if (!reading) return setReading(true)
      if (!readOn()) list.move(1)
    },
  }
  useRowKeys(list, keys, () => setReading(false))
  const scroller = useRef<HTMLDivElement>(null)
  const virtual = useRows(items, scroller, (i) => (i.line ? 38 : 46), {
    focus: { key: focus?.key, at: list.index },
    keyOf,
  })
  const writing = composing.use()
  const onUndo = useLatest(() => void undo())
  const sheet = reading && first !== undefined && focus?.line !== undefined
  return (
    <>
      <main className="flex min-h-0 flex-1 gap-3 px-4 max-md:px-2" aria-label="Shallows">
        <Gauge
          kinds={dragging ? data.kinds : kinds}
          at={focus?.shoal.kind}
          onTo={(kind) => list.focusOn(`kind ${kind}`)}
          onDrop={dragging ? drop : undefined}
        />
        <div className={`@container flex min-h-0 min-w-0 flex-1 flex-col ${sheet ? 'max-lg:hidden' : ''}`}>
          <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1 py-2">
            <h1 className="text-[20px] font-bold">Shallows</h1>
            <span className="text-[13px] text-ink-2">sorted out of the inbox; nothing here counts for zero</span>
            <span className="flex-1" />
            <GroupChoice place="shallows" />
            <button className="btn btn-small btn-tight self-center" onClick={() => setAsking('clearing')}>
              <MailX className="size-4" aria-hidden /> Clear out senders
              {keyFor('clear') && <span className="key max-md:hidden">{keyName(keyFor('clear'))}</span>}
            </button>
            <button className="btn btn-small btn-tight self-center" onClick={() => setAsking('first')}>
              <Sparkle className="size-4" aria-hidden /> New this week
            </button>
            <button className="btn btn-small btn-tight self-center" onClick={() => setAsking('kinds')}>
              <Settings2 className="size-4" aria-hidden /> What is sorted out
            </button>
          </div>
          {data.before > 0 && (
            <p className="mb-2 flex flex-wrap items-center gap-3 rounded-[12px] bg-tide-3 px-3 py-1.5 text-[14px]">
              <span className="min-w-0 flex-1">
                {data.before === 1 ? '1 letter' : `${data.before} letters`} in the inbox came by an import or from a
                mail server, unsorted.
              </span>
              <button
                className="btn btn-small"
                onClick={() => void carryOut({ path: 'sort-before', body: {} }).then(told)}
              >
                Sort them
              </button>
            </p>
          )}
          {data.n === 0 && (
            <p className="p-6 text-ink-2">
              Nothing lies here. What machines and lists write comes here instead of the inbox, by kind, and waits until
              you like.
            </p>
          )}
          <div
            ref={scroller}
            data-scroller
            role="group"
            aria-label="Letters by kind"
            className="min-h-0 flex-1 overflow-y-auto pr-1"
            tabIndex={-1}
          >
            <Rows virtual={virtual} items={items}>
              {(item, { top }, key, measure) => (
                <div key={key} {...measure} className="absolute inset-x-px" style={{ top }}>
                  <div
                    id={idOf(item)}
                    data-shallow
                    role="group"
                    aria-label={nameOf(item)}
                    tabIndex={item === focus ? 0 : -1}
                    aria-current={item === focus || undefined}
                    className={`outline-none ${look(item)} ${item === focus ? 'relative z-10 rounded-lg ring-2 ring-tide ring-inset' : ''} ${list.selected.has(item.key) ? '!bg-tide-2' : ''}`}
                    draggable={item.line !== undefined}
                    onDragStart={(e) => {
                      drag(e, list.selected.has(item.key) ? targets() : targetsOf(item))
                      setTimeout(() => setDragging(item.shoal.kind)) // a page that changes at once ends it
                    }}
                    onDragEnd={() => setDragging(undefined)}
                    onDragOver={(e) => dragging && dragging !== item.shoal.kind && dragged(e) && e.preventDefault()}
                    onDrop={(e) => drop(e, item.shoal.kind)}
                    onClick={() => {
                      list.focusOn(item.key)
                      if (item.line && (item.row ?? item.line.rows.length === 1)) setReading(true)
                    }}
                  >
                    <Shown item={item} open={unfolded.has(item.line?.key ?? '')} onUnfold={unfold} />
                  </div>
                </div>
              )}
            </Rows>
          </div>
        </div>
        {sheet && (
          <SheetBeside
            id={first.id}
            open={open}
            onBack={() => setReading(false)}
            onLabel={() => deciding.ask('label')}
          />
        )}
      </main>
      {!writing && <Deck keys={deciding.deck} routines={deciding.routines} onUndo={onUndo} />}
      {deciding.dialogs}
      {asking === 'clearing' && <ClearingDialog onClose={() => setAsking(undefined)} />}
      {asking === 'first' && <FirstSortedDialog onClose={() => setAsking(undefined)} />}
      {asking === 'kinds' && <KindsDialog kinds={data.kinds} onClose={() => setAsking(undefined)} />}
      {asking === 'sort' && focus && first && (
        <SortDialog
          title={many > 1 ? `${many} letters` : first.title}
          kind={focus.shoal.kind}
          why={focus.line?.why ?? ''}
          list={focus.line?.list ?? false}
          leaving={open && leavingOf(open)}
          row={first}
          on={targets()}
          onClose={() => setAsking(undefined)}
          onTake={(kind, scope) => {
            setAsking(undefined)
            list.clear()
            sortTo(targets(), kind, scope)
          }}
          onRefuse={(kind, scope) => {
            const on = targets()
            setAsking(undefined)
            list.clear()
            refuse(on, kind, scope)
          }}
        />
      )}
    </>
  )
}

const nameOf = ({ shoal, line, row }: Item) =>
  row ? row.title : line ? `${line.head}, ${line.says}` : `${shoal.name}, ${shoal.n}`

const look = (i: Item) =>
  !i.line
    ? 'mt-2 rounded-lg border border-transparent'
    : i.row
      ? 'border-b border-line bg-paper pl-8'
      : 'border-b border-line bg-paper'

function Shown({ item, open, onUnfold }: { item: Item; open: boolean; onUnfold: (key: string) => void }) {
  const { shoal, line, row } = item
  if (!line)
    return (
      <h2 className="flex items-baseline gap-2 px-1 py-1.5 text-[15px] font-semibold">
        {shoal.name} <span className="text-[13px] font-normal text-ink-2">{shoal.n}</span>
        <span className="flex-1" />
        <span className="text-[13px] font-normal text-ink-2">
          {shoal.more > 0 ? `the newest ${shoal.n - shoal.more} are shown` : shoal.note}
        </span>
      </h2>
    )
  if (row)
    return (
      <div className="flex items-center gap-3 px-3 py-1.5 text-[14px]">
        <span className={`min-w-0 flex-1 truncate ${row.unread ? 'font-semibold' : ''}`}>{row.title}</span>
        <span className="text-[13px] text-ink-2">{stamp(row.at)}</span>
      </div>
    )
  return <Line shoal={shoal} line={line} open={open} onUnfold={() => onUnfold(line.key)} />
}
