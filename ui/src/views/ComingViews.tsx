import { useState, type ReactNode } from 'react'
import { useNavigate } from '@tanstack/react-router'
import type { Row, Waiting } from '../api/client'
import { useAhead, useWaiting } from '../api/queries'
import { LaterDialog } from '../dialogs/LaterDialog'
import { carryOut, undo, useHidden } from '../state/commands'
import { useKeys } from '../state/keys'
import { age, longDay } from '../state/time'

function Page({ title, hint, children }: { title: string; hint: ReactNode; children: ReactNode }) {
  return (
    <main className="mx-auto flex min-h-0 w-full max-w-5xl flex-1 flex-col px-4 pb-3 max-md:px-2" aria-label={title}>
      <div className="flex flex-wrap items-baseline gap-3 py-2">
        <h1 className="text-[20px] font-bold">{title}</h1>
        <span className="text-[13px] text-ink-3">{hint}</span>
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto p-1">{children}</div>
    </main>
  )
}

/** Moves a focus through a list with the keys. */
function useFocus<T extends { id: number }>(list: T[], keys: (item: T) => Parameters<typeof useKeys>[0]) {
  const [at, setAt] = useState<number>()
  const index = Math.max(
    0,
    list.findIndex((i) => i.id === at),
  )
  const item = list[index]
  const move = (by: number) => {
    const next = list[Math.min(Math.max(index + by, 0), list.length - 1)]
    if (!next) return
    setAt(next.id)
    document.getElementById(`item-${next.id}`)?.scrollIntoView({ block: 'nearest' })
  }
  useKeys({ next: () => move(1), previous: () => move(-1), undo: () => void undo(), ...(item ? keys(item) : {}) })
  return { focus: item?.id, setFocus: setAt }
}

const line = (focused: boolean) =>
  `flex flex-wrap items-center gap-x-3 gap-y-1 rounded-[12px] border px-3 py-2 ${focused ? 'border-tide bg-paper ring-1 ring-tide' : 'border-transparent bg-paper/60'}`

/** What will come back, in time order. */
export function AheadView() {
  const { data = [], isPending } = useAhead()
  const hidden = useHidden()
  const go = useNavigate()
  const rows = data.filter((r) => !hidden.has(r.id))
  const [moving, setMoving] = useState<Row>()
  const fetchBack = (r: Row) =>
    void carryOut({ path: 'decide', body: { kind: 'inbox', on: [{ id: r.id, last: r.last }] }, hides: [r.id] })
  const { focus, setFocus } = useFocus(rows, (r) => ({
    fetch: () => fetchBack(r),
    done: () => fetchBack(r),
    later: () => setMoving(r),
    open: () => void go({ to: '/letter/$id', params: { id: String(r.id) } }),
  }))
  let day = ''
  return (
    <Page
      title="Ahead"
      hint={
        <>
          what comes back, in the order in which it comes · <span className="key">B</span> fetch back{' '}
          <span className="key">3</span> move <span className="key">Space</span> read
        </>
      }
    >
      {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {!isPending && rows.length === 0 && (
        <p className="p-6 text-ink-2">Nothing is put off. Press 3 on a letter to send it ahead.</p>
      )}
      {rows.map((r) => {
        const head = r.returnAt ? longDay(r.returnAt) : 'Someday'
        const isNew = head !== day
        day = head
        return (
          <div key={r.id}>
            {isNew && <h2 className="px-3 pt-4 pb-1 text-[13px] font-semibold text-ink-2">{head}</h2>}
            <div
              id={`item-${r.id}`}
              aria-current={r.id === focus}
              className={line(r.id === focus)}
              onClick={() => setFocus(r.id)}
            >
              <span className="w-32 shrink-0 font-semibold first-letter:uppercase">{r.return}</span>
              <button
                className="min-w-40 flex-1 truncate text-left hover:underline"
                onClick={() => void go({ to: '/letter/$id', params: { id: String(r.id) } })}
              >
                <b className="font-semibold">{r.from.name || r.from.email}</b> {r.title}
              </button>
              {(r.putOffs ?? 0) > 1 && <span className="chip !bg-lamp-2 !text-lamp">put off {r.putOffs} times</span>}
              <button className="btn !min-h-7" onClick={() => setMoving(r)}>
                Move…
              </button>
              <button className="btn !min-h-7" onClick={() => fetchBack(r)}>
                Fetch back
              </button>
            </div>
          </div>
        )
      })}
      {moving && (
        <LaterDialog
          title="Move: bring it back"
          hint={moving.title}
          putOffs={moving.putOffs}
          onClose={() => setMoving(undefined)}
          onTake={(p) => {
            setMoving(undefined)
            void carryOut({
              path: 'decide',
              body: { kind: 'later', when: p.phrase, on: [{ id: moving.id, last: moving.last }] },
            })
          }}
        />
      )}
    </Page>
  )
}

/** What is waited for, by its limit. */
export function WaitingView() {
  const { data = [], isPending } = useWaiting()
  const go = useNavigate()
  const [moving, setMoving] = useState<Waiting>()
  const end = (w: Waiting, state: 'met' | 'dropped') => void carryOut({ path: 'waiting', id: w.id, body: { state } })
  const open = (w: Waiting) => void go({ to: '/letter/$id', params: { id: String(w.conversation) } })
  const { focus, setFocus } = useFocus(data, (w) => ({
    open: () => open(w),
    later: () => setMoving(w),
    done: () => end(w, 'met'),
  }))
  return (
    <Page
      title="Waiting"
      hint={
        <>
          answers you wait for · <span className="key">Space</span> read <span className="key">3</span> move the limit{' '}
          <span className="key">2</span> it is answered
        </>
      }
    >
      {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {!isPending && data.length === 0 && (
        <p className="p-6 text-ink-2">You wait for nobody. Hand on waits by itself; Answer waits if you say so.</p>
      )}
      {data.map((w) => (
        <div
          key={w.id}
          id={`item-${w.id}`}
          aria-current={w.id === focus}
          className={`mb-1 ${line(w.id === focus)}`}
          onClick={() => setFocus(w.id)}
        >
          <span className="w-40 shrink-0 truncate font-semibold">{w.persons.join(', ')}</span>
          <button className="min-w-40 flex-1 truncate text-left hover:underline" onClick={() => open(w)}>
            {w.title || '(being sent)'}
          </button>
          <span className="text-[13px] text-ink-3">for {age(w.since)}</span>
          <span className={`chip ${w.late ? '!bg-buoy-2 !text-buoy' : '!bg-heather-2 !text-heather'}`}>
            {w.until ? `${w.late ? 'late: ' : 'until '}${w.until}` : 'no limit'}
          </span>
          {w.away && <span className="chip !bg-lamp-2 !text-lamp">{w.away}</span>}
          {w.awayUntil && (
            <button
              className="btn !min-h-7"
              onClick={() => void carryOut({ path: 'waiting', id: w.id, body: { until: w.awayUntil?.phrase } })}
            >
              Wait until {w.awayUntil.words}
            </button>
          )}
          {w.offered && (
            <button className="btn !min-h-7" onClick={() => end(w, 'met')}>
              {w.offered} answered: this is it
            </button>
          )}
          <button className="btn !min-h-7" onClick={() => setMoving(w)}>
            Move…
          </button>
          <button className="btn !min-h-7" onClick={() => end(w, 'met')}>
            Answered
          </button>
          <button className="btn !min-h-7" onClick={() => end(w, 'dropped')}>
            Stop waiting
          </button>
        </div>
      ))}
      {moving && (
        <LaterDialog
          title="Wait until"
          hint={moving.persons.join(', ')}
          onClose={() => setMoving(undefined)}
          onTake={(p) => {
            setMoving(undefined)
            void carryOut({ path: 'waiting', id: moving.id, body: { until: p.phrase } })
          }}
        />
      )}
    </Page>
  )
}
