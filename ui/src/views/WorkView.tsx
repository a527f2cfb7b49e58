import { useNavigate } from '@tanstack/react-router'
import { Pause, Play } from 'lucide-react'
import { useEffect, useMemo, useState } from 'react'
import { toast } from '../state/toast'
import { useBoard, type Arranged } from '../api/queries'
import { DoneDialog } from '../followups/DoneDialog'
import { LaterDialog } from '../letters/LaterDialog'
import { Deck, type DeckKey } from '../letters/Deck'
import { FollowUpDetail, SourceLetter } from '../followups/FollowUpDetail'
import { startAnswer } from '../state/answering'
import { carryOut, tellDone, undo, type FollowUpFields } from '../state/commands'
import { startHandOver } from '../state/followed'
import { useKeys } from '../state/keys'
import { api, errorText, take } from '../api/client'
import { composing } from '../state/writing'
import { failed } from '../state/failed'

const today: Arranged = { by: 'order', closed: false, filter: { due: ['overdue', 'today'], mine: true } }

/** The day's follow-ups one at a time, in the order of work, over a deck. */
export function WorkView() {
  const { data, isPending, isError, error } = useBoard(today)
  const go = useNavigate()
  const [passed, setPassed] = useState<ReadonlySet<number>>(new Set())
  const [asking, setAsking] = useState<'later' | 'waiting'>()
  const writing = composing.use()
  const all = useMemo(() => data?.lanes.flatMap((l) => l.ids) ?? [], [data])
  const cards = useMemo(() => new Map(data?.cards.map((f) => [f.id, f])), [data])
  const list = all.filter((id) => !passed.has(id))
  const id = list[0]
  const f = id === undefined ? undefined : cards.get(id)
  const next = () => id !== undefined && setPassed((was) => new Set([...was, id]))
  const edit = (body: FollowUpFields) => {
    if (id === undefined) return
    next()
    void carryOut({ path: 'edit-follow-up', id, body }).then((o) => {
      if (o) tellDone(o.title, {}, back)
      else setPassed((was) => new Set([...was].filter((p) => p !== id)))
    })
  }
  const back = async () => {
    await undo()
    setPassed(new Set())
  }
  const letter = f?.letters.find((l) => l.conversation)
  const answer = () => {
    if (!letter?.conversation) return toast('It has no letter to answer.')
    void take(api.GET('/api/conversations/{id}', { params: { path: { id: letter.conversation } } })).then(startAnswer)
  }
  const handOver = () =>
    id !== undefined &&
    void startHandOver(id).then(
      (conversation) => !conversation && void go({ to: '/inbox' }),
      (e: unknown) => failed(errorText(e, 'The letter could not be drafted.')),
    )
  const press = {
    answer,
    done: () => edit({ status: 'done' }),
    later: () => id !== undefined && setAsking('later'),
    waiting: () => id !== undefined && setAsking('waiting'),
    handOn: handOver,
    bin: () => edit({ status: 'dropped' }),
  }
  useKeys({ ...press, followUp: press.waiting, file: () => next(), next, undo: () => void back() })
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      if (e.key === 'Escape' && !e.defaultPrevented && !document.querySelector('[role=dialog]') && !composing.get())
        void go({ to: '/follow-ups' })
    }
    addEventListener('keydown', keys)
    return () => removeEventListener('keydown', keys)
  }, [go])
  const off = f ? undefined : 'nothing left'
  const deck: DeckKey[] = [
    {
      action: 'answer',
      name: 'Answer',
      hint: letter ? `to ${letter.sender}` : '',
      press: press.answer,
      off: off ?? (letter ? undefined : 'no letter'),
    },
    { action: 'done', name: 'Done', hint: f?.recurs ? 'makes the next one' : 'completed', press: press.done, off },
    { action: 'later', name: 'Not today', hint: 'another day', press: press.later, off },
    { action: 'followUp', name: 'Waiting', hint: 'until they answer', press: press.waiting, off },
    { action: 'handOn', name: 'Hand over', hint: 'by mail', press: press.handOn, off },
    { action: 'file', name: 'Pass over', hint: 'the next one first', press: () => next(), off },
    { action: 'bin', name: 'Drop', hint: 'not to be done', press: press.bin, off },
  ]
  const total = all.length
  return (
    <>
      <main className="flex min-h-0 flex-1 flex-col px-4 max-md:px-2" aria-label="Work through today">
        <div className="flex flex-wrap items-center gap-3 py-2">
          <h1 className="text-[20px] font-bold">Work through today</h1>
          <span className="text-[13px] text-ink-2" role="status">
            {list.length === 0 ? 'nothing left' : `${list.length} of ${total} left`}
            {data && ` · ${data.planned} min planned, ${data.free === 0 ? 'no time' : `${data.free} min free`}`}
          </span>
          <span className="flex-1" />
          {id !== undefined && <Timer key={id} id={id} />}
          <button className="btn" onClick={() => void go({ to: '/follow-ups' })}>
            All follow-ups <span className="key">Esc</span>
          </button>
        </div>
        {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
        {isError && !data && (
          <p role="alert" className="p-6 text-buoy">
            {error.message}
          </p>
        )}
        {data && !f && (
          <div className="grid flex-1 place-content-center gap-3 text-center">
            <p className="text-[20px] font-semibold">
              {total === 0 ? 'Nothing is due today.' : 'That was all for today.'}
            </p>
            {passed.size > 0 && total > 0 && (
              <button className="btn justify-self-center" onClick={() => setPassed(new Set())}>
                Look at those passed over again
              </button>
            )}
          </div>
        )}
        {data && f && id !== undefined && (
          <div className="flex min-h-0 flex-1 gap-3 max-lg:flex-col max-lg:overflow-y-auto">
            <div
              className={`flex min-h-0 flex-col ${letter || writing ? 'lg:w-[420px] lg:shrink-0' : 'mx-auto w-full max-w-3xl'}`}
            >
              <FollowUpDetail id={id} stages={data.stages} names={data.names} beside />
            </div>
            {letter?.conversation && (
              <div className="flex min-h-80 min-w-0 flex-1 flex-col">
                <SourceLetter id={letter.conversation} />
              </div>
            )}
          </div>
        )}
      </main>
      <Deck keys={deck} onUndo={() => void back()} />
      {asking === 'later' && f && (
        <LaterDialog
          title="Not today: due"
          hint={f.title}
          about={{}}
          onClose={() => setAsking(undefined)}
          onTake={(p) => {
            setAsking(undefined)
            edit({ due: p.phrase === 'someday' ? '' : p.phrase })
          }}
        />
      )}
      {asking === 'waiting' && f && (
        <DoneDialog
          waiting
          id={f.id}
          title={f.title}
          onClose={(taken) => {
            setAsking(undefined)
            if (taken) next()
          }}
        />
      )}
    </>
  )
}

/** How long one has been at it; it can be kept as the estimate. */
function Timer({ id }: { id: number }) {
  const [from, setFrom] = useState<number>()
  const [spent, setSpent] = useState(0)
  const [, tick] = useState(0)
  useEffect(() => {
    if (from === undefined) return
    const timer = setInterval(() => tick((n) => n + 1), 1000)
    return () => clearInterval(timer)
  }, [from])
  const seconds = Math.floor((spent + (from === undefined ? 0 : Date.now() - from)) / 1000)
  const minutes = Math.max(1, Math.round(seconds / 60))
  return (
    <span className="flex items-center gap-2 text-[13px]">
      <button
        className="btn btn-small"
        aria-pressed={from !== undefined}
        onClick={() => {
          if (from === undefined) return setFrom(Date.now())
          setSpent((s) => s + Date.now() - from)
          setFrom(undefined)
        }}
      >
        {from === undefined ? <Play className="size-3.5" aria-hidden /> : <Pause className="size-3.5" aria-hidden />}
        {seconds === 0 ? 'Timer' : `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`}
      </button>
      {from === undefined && spent > 0 && (
        <button
          className="btn btn-small"
          onClick={() => void carryOut({ path: 'edit-follow-up', id, body: { estimate: minutes } })}
        >
          Keep {minutes} min as the estimate
        </button>
      )}
    </span>
  )
}
