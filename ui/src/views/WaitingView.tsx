import { useNavigate } from '@tanstack/react-router'
import { useMemo, useRef, useState } from 'react'
import { errorText, type Waiting } from '../api/client'
import { useWaiting } from '../api/queries'
import { LaterDialog } from '../letters/LaterDialog'
import { Beside } from '../letters/Beside'
import { startNudge } from '../state/answering'
import { carryOut, told, undo } from '../state/commands'
import { useHidden, withoutHidden } from '../state/hiding'
import { focusOn } from '../state/focus'
import { useRowFocus, useRowKeys } from '../state/rows'
import { kept } from '../state/store'
import { age } from '../state/time'
import { CouldNotRead } from '../kit/CouldNotRead'
import { Rows, useRows } from '../kit/Rows'
import { failed } from '../state/failed'

const orders = [
  ['limit', 'By limit'],
  ['person', 'By person'],
  ['settled', 'Settled'],
] as const
type Order = (typeof orders)[number][0]

const order = kept<Order>('waiting-order', 'limit')

/** The answers that are waited for: by limit or by person, and those that came
 * or are no longer waited for. */
export function WaitingView() {
  const by = order.use()
  const { data, isPending, isError, error, refetch } = useWaiting(by === 'settled')
  const go = useNavigate()
  const [moving, setMoving] = useState<Waiting>()
  const hidden = useHidden()
  const groups = useMemo(() => grouped(withoutHidden(data ?? [], hidden, 'waiting'), by), [data, hidden, by])
  const rows = useMemo(() => groups.flatMap((g) => g.list), [groups])
  const items = useMemo(
    () => groups.flatMap((g) => [...(g.head ? [{ head: g }] : []), ...g.list.map((w) => ({ w }))]),
    [groups],
  )
  const list = useRowFocus<Waiting, number, Waiting>({
    rows,
    keyOf: (w) => w.id,
    pick: (w) => w,
    single: true,
    onMove: (w) => focusOn(`item-${w.id}`),
  })
  const { focus } = list
  const scroller = useRef<HTMLDivElement>(null)
  const at = useMemo(() => items.findIndex((i) => 'w' in i && i.w === focus), [items, focus])
  const virtual = useRows<Item>(items, scroller, (item) => ('head' in item ? 36 : 48), {
    focus: { key: focus?.id, at },
    keyOf: (item) => ('head' in item ? item.head.head : item.w.id),
  })
  const end = (w: Waiting, state: 'open' | 'met' | 'dropped') =>
    void carryOut({ path: 'waiting', id: w.id, body: { state }, hides: [`waiting:${w.id}`] }).then(told)
  const open = (w: Waiting) => void go({ to: '/letter/$id', params: { id: String(w.conversation) } })
  const nudge = (w: Waiting) =>
    void startNudge(w.id).then(
      () => open(w),
      (e: unknown) => failed(errorText(e, 'The letter could not be drafted.')),
    )
  const live = focus?.state === 'open' ? focus : undefined
  useRowKeys(list, {
    undo: () => void undo(),
    open: () => focus && open(focus),
    answer: () => live && nudge(live),
    later: () => live && setMoving(live),
    done: () => live && end(live, 'met'),
    bin: () => live && end(live, 'dropped'),
  })
  return (
    <Beside id={focus?.conversation}>
      <main className="flex min-h-0 w-full flex-1 flex-col pb-3" aria-label="Waiting">
        <div className="flex flex-wrap items-center gap-3 py-2">
          <h1 className="text-[20px] font-bold">Waiting</h1>
          <div role="radiogroup" aria-label="Order" className="flex gap-1">
            {orders.map(([value, name]) => (
              <button
                key={value}
                role="radio"
                aria-checked={by === value}
                className={`btn btn-small ${by === value ? 'btn-main' : ''}`}
                onClick={() => order.set(value)}
              >
                {name}
              </button>
            ))}
          </div>
          <span className="text-[13px] text-ink-3 max-md:hidden">
            <span className="key">Space</span> read <span className="key">1</span> nudge <span className="key">2</span>{' '}
            answered <span className="key">3</span> move the limit <span className="key">7</span> stop waiting
          </span>
        </div>
        <div
          ref={scroller}
          className="min-h-0 flex-1 overflow-y-auto p-1"
          role="group"
          aria-label="Who is waited for"
          tabIndex={-1}
        >
          {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
          {isError && !data && <CouldNotRead what="The list" error={error} again={refetch} />}
          {data && rows.length === 0 && (
            <p className="p-6 text-ink-2">
              {by === 'settled'
                ? 'Nothing has been answered or let go yet.'
                : 'You wait for nobody. Hand on waits by itself; Answer waits if you say so.'}
            </p>
          )}
          <Rows virtual={virtual} items={items}>
            {(item, { top }, key, measure) => (
              <div key={key} {...measure} className="absolute inset-x-0 px-px pb-1" style={{ top }}>
                {'head' in item ? (
                  <h2 className="px-3 pt-3 pb-1 text-[13px] font-semibold text-ink-2">
                    {item.head.head} <span className="font-normal text-ink-3">{item.head.list.length}</span>
                  </h2>
                ) : (
                  <Line
                    w={item.w}
                    named={by !== 'person'}
                    focused={item.w === focus}
                    onFocus={() => list.focusOn(item.w.id)}
                    onOpen={() => open(item.w)}
                    onNudge={() => nudge(item.w)}
                    onMove={() => setMoving(item.w)}
                    onEnd={(state) => end(item.w, state)}
                  />
                )}
              </div>
            )}
          </Rows>
        </div>
        {moving && (
          <LaterDialog
            title="Wait until"
            hint={moving.persons.join(', ')}
            initial={moving.untilAs}
            onClose={() => setMoving(undefined)}
            onTake={(p) => {
              setMoving(undefined)
              void carryOut({ path: 'waiting', id: moving.id, body: { until: p.phrase } })
            }}
          />
        )}
      </main>
    </Beside>
  )
}

interface Group {
  head: string
  list: Waiting[]
}
type Item = { head: Group } | { w: Waiting }

function grouped(list: Waiting[], by: Order): Group[] {
  if (by === 'settled') return [{ head: '', list }]
  const out = new Map<string, Waiting[]>()
  for (const w of list) {
    const head =
      by === 'person' ? w.persons.join(', ') : w.late ? 'The limit has passed' : w.until ? 'With a limit' : 'No limit'
    const group = out.get(head)
    if (group) group.push(w)
    else out.set(head, [w])
  }
  const groups = [...out].map(([head, some]) => ({ head, list: some }))
  return by === 'person' ? groups.sort((a, b) => b.list.length - a.list.length || a.head.localeCompare(b.head)) : groups
}

function Line(props: {
  w: Waiting
  named: boolean
  focused: boolean
  onFocus: () => void
  onOpen: () => void
  onNudge: () => void
  onMove: () => void
  onEnd: (state: 'open' | 'met' | 'dropped') => void
}) {
  const { w } = props
  return (
    <div
      id={`item-${w.id}`}
      tabIndex={-1}
      data-home={props.focused || undefined}
      role="group"
      aria-label={`${w.persons.join(', ')}: ${w.title}${w.until ? `, until ${w.until}` : ''}`}
      aria-current={props.focused}
      onClick={props.onFocus}
      className={`group flex !outline-none flex-wrap items-center gap-x-2 gap-y-1 rounded-[12px] border px-3 py-2 ${props.focused ? 'border-tide bg-paper ring-1 ring-tide' : 'border-transparent bg-paper/60'}`}
    >
      {props.named && <span className="w-36 shrink-0 truncate font-semibold">{w.persons.join(', ')}</span>}
      <button className="min-w-32 flex-1 truncate text-left hover:underline" onClick={props.onOpen}>
        {w.title || '(being sent)'}
      </button>
      {w.all && (
        <span className="chip">
          all of them{(w.answered ?? []).length > 0 && `; ${(w.answered ?? []).join(', ')} answered`}
        </span>
      )}
      <span className="text-[13px] text-ink-3">
        {age(w.since) === 'now' ? 'since just now' : `for ${age(w.since)}`}
      </span>
      <Limit w={w} />
      {w.away && <span className="chip !bg-lamp-2 !text-lamp">{w.away}</span>}
      {w.state === 'open' ? (
        <>
          {w.awayUntil && (
            <button
              className="btn btn-small"
              onClick={() => void carryOut({ path: 'waiting', id: w.id, body: { until: w.awayUntil?.phrase } })}
            >
              Wait until {w.awayUntil.words}
            </button>
          )}
          {w.offered && (
            <button className="btn btn-small" onClick={() => props.onEnd('met')}>
              {w.offered} answered: this is it
            </button>
          )}
          {/* What can be done stands where one is: less to read, and quicker. */}
          <span
            className={`flex w-full flex-wrap justify-end gap-2 ${props.focused ? '' : 'md:hidden md:group-focus-within:flex md:group-hover:flex'}`}
          >
            <button className="btn btn-small" onClick={props.onNudge}>
              Nudge…
            </button>
            <button className="btn btn-small" onClick={props.onMove}>
              Move…
            </button>
            <button className="btn btn-small" onClick={() => props.onEnd('met')}>
              Answered
            </button>
            <button className="btn btn-small" onClick={() => props.onEnd('dropped')}>
              Stop waiting
            </button>
          </span>
        </>
      ) : (
        <button className="btn btn-small" onClick={() => props.onEnd('open')}>
          Wait again
        </button>
      )}
    </div>
  )
}

function Limit({ w }: { w: Waiting }) {
  if (w.state === 'met')
    return (
      <span className="chip !bg-tide-2 !text-tide">{w.late ? 'answered, after the limit' : 'answered in time'}</span>
    )
  if (w.state === 'dropped') return <span className="chip">{w.late ? 'missed, let go' : 'let go'}</span>
  return (
    <span className={`chip ${w.late ? '!bg-buoy-2 !text-buoy' : '!bg-heather-2 !text-heather'}`}>
      {w.until ? `${w.late ? 'late: ' : 'until '}${w.until}` : 'no limit'}
    </span>
  )
}
