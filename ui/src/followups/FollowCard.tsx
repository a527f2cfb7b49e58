import { Bell, Check, ListChecks, Mail, Repeat, Undo2 } from 'lucide-react'
import type { FollowUp, Stage } from '../api/client'
import { Priority } from '../kit/Marks'
import { stamp } from '../state/time'

/** The due of a follow-up: its colour goes with a word. */
export function DueChip({ f }: { f: FollowUp }) {
  if (!f.dueAt) return null
  const late = f.late && !f.closed
  return (
    <span
      className={`chip ${f.closed ? '' : late ? '!bg-buoy-2 !text-buoy' : f.group === 'today' ? '!bg-lamp-2 !text-lamp' : ''}`}
    >
      {f.reminders.some((r) => r.state === 'set') && !f.closed && (
        <Bell className="size-3" aria-label="with a reminder" />
      )}
      {late ? `late: ${f.due}` : f.due}
    </span>
  )
}

/** What stands beside the title of a follow-up, in short. */
function Facts({ f, stage }: { f: FollowUp; stage?: Stage }) {
  const done = f.checklist.filter((i) => i.done).length
  return (
    <>
      <DueChip f={f} />
      {f.status === 'waiting' && <span className="chip !bg-heather-2 !text-heather">waiting</span>}
      {f.status === 'under-way' && <span className="chip !bg-tide-2 !text-tide">under way</span>}
      {f.recurs && !f.closed && (
        <span title={`Comes again: ${f.recurs}`}>
          <Repeat className="size-3.5" aria-label={`comes again ${f.recurs}`} />
        </span>
      )}
      {f.checklist.length > 0 && (
        <span className="inline-flex items-center gap-0.5">
          <ListChecks className="size-3.5" aria-label="checklist" /> {done}/{f.checklist.length}
        </span>
      )}
      {f.estimate > 0 && <span>{f.estimate} min</span>}
      {stage && <span className="chip">{stage.name}</span>}
      {f.assignee && <span className="text-heather">{f.assignee}</span>}
      {f.closed && f.doneAt && (
        <span>
          {f.status === 'dropped' ? 'dropped' : 'done'} {stamp(f.doneAt)}
        </span>
      )}
    </>
  )
}

interface CardProps {
  f: FollowUp
  stage?: Stage
  focused: boolean
  chosen: boolean
  drags: () => string
  onFocus: () => void
  onToggle: () => void
  onOpen: () => void
  onComplete: () => void
}

function Complete({ f, onComplete }: { f: FollowUp; onComplete: () => void }) {
  return (
    <button
      aria-label={f.closed ? `Reopen ${f.title}` : `Complete ${f.title}`}
      title={f.closed ? 'Reopen' : 'Complete'}
      className="grid size-6 shrink-0 place-items-center rounded-full border border-line hover:bg-kelp-2"
      onClick={onComplete}
    >
      {f.closed ? <Undo2 className="size-3.5" aria-hidden /> : <Check className="size-3.5" aria-hidden />}
    </button>
  )
}

const frame = (p: CardProps) =>
  `rounded-[12px] border ${p.chosen ? 'bg-tide-2' : 'bg-paper'} ${p.focused ? 'border-tide ring-1 ring-tide' : 'border-line'}`

const dragging = (p: CardProps) => ({
  draggable: true,
  onDragStart: (e: React.DragEvent) => {
    e.dataTransfer.setData('text/x-ebbe-follow-ups', p.drags())
    e.dataTransfer.effectAllowed = 'move'
  },
})

/** A follow-up on the board. */
export function FollowCard(p: CardProps) {
  const { f } = p
  const letter = f.letters[0]
  return (
    <article
      id={`follow-${f.id}`}
      aria-current={p.focused}
      data-card
      {...dragging(p)}
      onClick={p.onFocus}
      onDoubleClick={p.onOpen}
      className={`${frame(p)} p-2.5`}
    >
      <div className="flex items-start gap-2">
        <Priority of={f.priority} />
        <button
          className="min-w-0 flex-1 text-left text-[14.5px] leading-snug font-semibold break-words hover:underline"
          onClick={p.onOpen}
        >
          {f.title}
        </button>
        <Complete f={f} onComplete={p.onComplete} />
      </div>
      {letter && (
        <p className="mt-1 ml-5 flex max-w-full items-center gap-1.5 text-[13px] text-ink-3">
          <Mail className="size-3.5 shrink-0" aria-label="from a letter" />
          <span className="truncate">
            {letter.subject}
            {letter.purged && ` (${letter.sender}, ${stamp(letter.date)}; purged)`}
          </span>
          {f.letters.length > 1 && <span>+{f.letters.length - 1}</span>}
        </p>
      )}
      <div className="mt-1 ml-5 flex flex-wrap items-center gap-1.5 text-[13px] text-ink-3">
        <Facts f={f} stage={p.stage} />
        {(f.project || f.context) && (
          <span className="ml-auto truncate">{[f.project, f.context].filter(Boolean).join(' · ')}</span>
        )}
      </div>
    </article>
  )
}

/** A follow-up in the list: one line, with the reason for its place. */
export function FollowLine(p: CardProps) {
  const { f } = p
  return (
    <article
      id={`follow-${f.id}`}
      aria-current={p.focused}
      data-card
      {...dragging(p)}
      onClick={p.onFocus}
      onDoubleClick={p.onOpen}
      className={`${frame(p)} flex h-full items-center gap-3 overflow-hidden px-3`}
    >
      <input
        type="checkbox"
        checked={p.chosen}
        onChange={p.onToggle}
        aria-label={`Select ${f.title}`}
        className="size-4 shrink-0 accent-[var(--tide)]"
      />
      <Priority of={f.priority} />
      <div className="min-w-0 flex-1">
        <button className="block max-w-full truncate text-left font-semibold hover:underline" onClick={p.onOpen}>
          {f.title}
        </button>
        <span className="block truncate text-[12.5px] text-ink-3">
          {[f.why?.join(', '), f.letters[0]?.subject, f.project, f.context].filter(Boolean).join(' · ')}
        </span>
      </div>
      <span className="flex shrink-0 items-center gap-1.5 text-[13px] text-ink-3 max-md:hidden">
        <Facts f={f} stage={p.stage} />
      </span>
      <Complete f={f} onComplete={p.onComplete} />
    </article>
  )
}
