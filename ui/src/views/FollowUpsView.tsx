import { Bell, Check, Mail, Plus } from 'lucide-react'
import { useEffect, useMemo, useState } from 'react'
import { useNavigate, useSearch } from '@tanstack/react-router'
import { toast } from 'sonner'
import type { FollowUp } from '../api/client'
import { useFollowUps } from '../api/queries'
import { FollowUpDialog } from '../dialogs/FollowUpDialog'
import { Priority } from '../parts/Marks'
import { carryOut, undo } from '../state/commands'
import { useKeys } from '../state/keys'
import { stamp } from '../state/time'

const lanes = [
  ['overdue', 'Overdue', 'text-buoy border-buoy'],
  ['today', 'Today', 'border-ink'],
  ['week', 'This week', 'border-ink'],
  ['month', 'This month', 'border-ink'],
  ['further', 'Further on', 'border-ink'],
  ['someday', 'Someday', 'text-ink-2 border-ink-3'],
] as const

const laneMost = 200

/** Follow-ups by due. */
export function FollowUpsView() {
  const [closed, setClosed] = useState(false)
  const { data, isPending, isError, error } = useFollowUps(closed)
  const { open } = useSearch({ strict: false }) as { open?: number }
  const go = useNavigate()
  const [editing, setEditing] = useState<FollowUp>()
  const [at, setAt] = useState<number | undefined>(open)
  const list = useMemo(() => data ?? [], [data])
  const shown = lanes.filter(([key]) => key !== 'further' || list.some((f) => f.group === key))
  const order = useMemo(
    () =>
      closed ? list : lanes.flatMap(([key]) => list.filter((f) => f.group === key).sort((a, b) => rank(a) - rank(b))),
    [list, closed],
  )
  const focus = order.find((f) => f.id === at) ?? order[0]
  useEffect(() => {
    if (focus) document.getElementById(`follow-${focus.id}`)?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }, [focus])
  const move = (by: number) => {
    const i = order.findIndex((f) => f.id === focus?.id)
    const next = order[Math.min(Math.max(i + by, 0), order.length - 1)]
    if (next) setAt(next.id)
  }
  const complete = (f: FollowUp) => {
    const done = f.status === 'done' || f.status === 'dropped'
    const i = order.indexOf(f)
    setAt((order[i + 1] ?? order[i - 1])?.id)
    void carryOut({ path: 'edit-follow-up', id: f.id, body: { status: done ? 'open' : 'done' } }).then(
      (o) => o && toast(o.title, { action: { label: 'Undo', onClick: () => void undo() } }),
    )
  }
  const openLetter = (f: FollowUp) => {
    const letter = f.letters.find((l) => l.conversation)
    if (letter?.conversation) void go({ to: '/letter/$id', params: { id: String(letter.conversation) } })
    else
      toast(
        f.letters.length > 0
          ? 'The letter was purged from the bin; its subject, sender and date are kept.'
          : 'This follow-up has no letter.',
      )
  }
  useKeys({
    next: () => move(1),
    previous: () => move(-1),
    open: () => focus && openLetter(focus),
    done: () => focus && complete(focus),
    followUp: () => focus && setEditing(focus),
    undo: () => void undo(),
  })
  return (
    <main className="flex min-h-0 flex-1 flex-col px-4 pb-3 max-md:px-2" aria-label="Follow-ups">
      <div className="flex flex-wrap items-center gap-2 py-2">
        <h1 className="text-[20px] font-bold">Follow-ups</h1>
        <div role="group" aria-label="Shown" className="flex gap-1">
          {[false, true].map((c) => (
            <button
              key={String(c)}
              aria-pressed={closed === c}
              className={`btn !min-h-7 ${closed === c ? '!bg-tide-2' : ''}`}
              onClick={() => setClosed(c)}
            >
              {c ? 'done' : 'open, by due'}
            </button>
          ))}
        </div>
        <span className="flex-1" />
        <span className="hidden text-[13px] text-ink-3 lg:inline">
          <span className="key">Space</span> letter <span className="key ml-2">2</span> complete{' '}
          <span className="key ml-2">4</span> change
        </span>
      </div>
      {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {isError && (
        <p role="alert" className="p-6 text-buoy">
          {error.message}
        </p>
      )}
      {data && list.length === 0 && (
        <p className="p-6 text-ink-2">
          {closed
            ? 'Nothing is done yet.'
            : 'Nothing to follow up. Press 4 on a letter to make a follow-up of it, or C to note one down.'}
        </p>
      )}
      {closed && list.length > 0 && (
        <div className="min-h-0 flex-1 space-y-1.5 overflow-y-auto">
          {list.map((f) => (
            <Card
              key={f.id}
              f={f}
              focused={f.id === focus?.id}
              onFocus={() => setAt(f.id)}
              onEdit={() => setEditing(f)}
              onComplete={() => complete(f)}
              onLetter={() => openLetter(f)}
            />
          ))}
        </div>
      )}
      {!closed && list.length > 0 && (
        <div className="grid min-h-0 flex-1 auto-cols-[minmax(210px,1fr)] grid-flow-col gap-3 overflow-auto max-md:grid-flow-row max-md:auto-rows-min max-md:grid-cols-1">
          {shown.map(([key, name, look]) => {
            const mine = order.filter((f) => f.group === key)
            return (
              <section
                key={key}
                aria-label={`${name}, ${mine.length}`}
                className="flex min-h-0 flex-col max-md:min-h-fit"
              >
                <h2 className={`flex items-baseline gap-2 border-b-2 pb-1 text-[15px] font-semibold ${look}`}>
                  {name} <span className="text-[13px] font-normal text-ink-3">{mine.length}</span>
                </h2>
                <div className="min-h-0 flex-1 space-y-2 overflow-y-auto px-0.5 py-2 max-md:overflow-visible">
                  {mine.slice(0, laneMost).map((f) => (
                    <Card
                      key={f.id}
                      f={f}
                      focused={f.id === focus?.id}
                      onFocus={() => setAt(f.id)}
                      onEdit={() => setEditing(f)}
                      onComplete={() => complete(f)}
                      onLetter={() => openLetter(f)}
                    />
                  ))}
                  {mine.length > laneMost && <p className="text-ink-3">and {mine.length - laneMost} more</p>}
                </div>
              </section>
            )
          })}
        </div>
      )}
      {editing && (
        <FollowUpDialog
          title={editing.title}
          follow={editing}
          withLetter={false}
          onClose={() => setEditing(undefined)}
          onTake={(body) => {
            setEditing(undefined)
            void carryOut({ path: 'edit-follow-up', id: editing.id, body })
          }}
        />
      )}
    </main>
  )
}

const ranks: Record<string, number> = { urgent: 0, high: 1, normal: 2, low: 3 }
const rank = (f: FollowUp) => (f.dueAt ? new Date(f.dueAt).getTime() / 1e5 : 1e9) * 10 + (ranks[f.priority] ?? 2)

function Card(props: {
  f: FollowUp
  focused: boolean
  onFocus: () => void
  onEdit: () => void
  onComplete: () => void
  onLetter: () => void
}) {
  const { f } = props
  const closed = f.status === 'done' || f.status === 'dropped'
  const letter = f.letters[0]
  return (
    <article
      id={`follow-${f.id}`}
      aria-current={props.focused}
      onClick={props.onFocus}
      className={`rounded-[12px] border bg-paper p-2.5 ${props.focused ? 'border-tide ring-1 ring-tide' : 'border-line'}`}
    >
      <div className="flex items-start gap-2">
        <Priority of={f.priority} />
        <button
          className="min-w-0 flex-1 text-left text-[14.5px] leading-snug font-semibold break-words hover:underline"
          onClick={props.onEdit}
        >
          {f.title}
        </button>
        <button
          aria-label={closed ? `Reopen ${f.title}` : `Complete ${f.title}`}
          title={closed ? 'Reopen' : 'Complete'}
          className="grid size-6 shrink-0 place-items-center rounded-full border border-line hover:bg-kelp-2"
          onClick={props.onComplete}
        >
          {closed ? <Plus className="size-3.5 rotate-45" aria-hidden /> : <Check className="size-3.5" aria-hidden />}
        </button>
      </div>
      {letter && (
        <button
          className="mt-1 ml-5 flex max-w-[calc(100%-20px)] items-center gap-1.5 text-[13px] text-ink-3 hover:underline"
          onClick={props.onLetter}
        >
          <Mail className="size-3.5 shrink-0" aria-hidden />
          <span className="truncate">
            {letter.subject}
            {letter.purged && ` (${letter.sender}, ${stamp(letter.date)}; purged)`}
          </span>
          {f.letters.length > 1 && <span>+{f.letters.length - 1}</span>}
        </button>
      )}
      <div className="mt-1 ml-5 flex flex-wrap items-center gap-1.5 text-[13px] text-ink-3">
        {f.due && (
          <span
            className={`chip ${closed ? '' : f.late ? '!bg-buoy-2 !text-buoy' : f.group === 'today' ? '!bg-lamp-2 !text-lamp' : ''}`}
          >
            {f.late && !closed ? `late: ${f.due}` : f.due}
          </span>
        )}
        {f.remind && !closed && (
          <span className="chip" title={`Reminder ${f.remind}`}>
            <Bell className="size-3" aria-label="Reminder" /> {f.remind}
          </span>
        )}
        {f.estimate > 0 && <span>{f.estimate} min</span>}
        {closed && f.doneAt && <span>done {stamp(f.doneAt)}</span>}
      </div>
    </article>
  )
}
