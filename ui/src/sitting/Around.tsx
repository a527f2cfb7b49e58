import { Undo2 } from 'lucide-react'
import type { Sitting } from '../api/client'
import { undo } from '../state/commands'
import { clock } from '../state/time'

/** A decision of a sitting, which can be undone. */
export function DecidedList({ sitting, most }: { sitting: Sitting; most: number }) {
  const shown = sitting.decided.slice(0, most)
  return (
    <ul>
      {shown.map((d) => (
        <li key={d.entry} className="group flex items-start gap-2 border-b border-line py-1.5 text-[13px]">
          <span className="min-w-0 flex-1 break-words">{d.title}</span>
          <button
            className="btn btn-small btn-tight shrink-0"
            aria-label={`Undo: ${d.title}`}
            title="Undo"
            onClick={() => void undo(d.entry)}
          >
            <Undo2 className="size-3.5" aria-hidden />
          </button>
        </li>
      ))}
      {sitting.decided.length > most && (
        <li className="py-1.5 text-[13px] text-ink-3">and {sitting.decided.length - most} more, in the Journal</li>
      )}
    </ul>
  )
}

/** What was decided, and what comes next. */
export function Sides({ sitting, at, onSkip }: { sitting: Sitting; at: number | undefined; onSkip: () => void }) {
  const next = sitting.next.filter((r) => r.id !== at).slice(0, 5)
  return (
    <aside aria-label="What was decided, and what comes" className="w-[240px] shrink-0 overflow-y-auto max-lg:hidden">
      <h2 className="border-b border-line pb-1 text-[14px] font-semibold">Decided</h2>
      {sitting.decided.length === 0 && <p className="py-2 text-[13px] text-ink-3">Nothing yet.</p>}
      <DecidedList sitting={sitting} most={6} />
      <h2 className="flex items-center border-b border-line pt-4 pb-1 text-[14px] font-semibold">
        <span className="flex-1">Next</span>
        <button className="btn btn-small btn-tight font-normal" onClick={onSkip} disabled={at === undefined}>
          Skip <span className="key">J</span>
        </button>
      </h2>
      <ul>
        {next.map((r) => (
          <li key={r.id} className="truncate border-b border-line py-1.5 text-[13px]">
            <span className="font-semibold">{r.from.name || r.from.email}</span> {r.title}
            {r.skipped && <span className="text-ink-3"> · again</span>}
            {r.new && <span className="text-tide"> · new</span>}
          </li>
        ))}
        {next.length === 0 && <li className="py-2 text-[13px] text-ink-3">That is the last.</li>}
      </ul>
    </aside>
  )
}

/** What a decision takes today, in words. */
export const paceWords = (seconds: number) =>
  seconds < 1 ? '' : seconds < 90 ? `${Math.round(seconds)} s a decision` : `${Math.round(seconds / 60)} min a decision`

/** How far a sitting has come, and when it is at zero. */
export function Progress(props: { sitting: Sitting; onSkip?: () => void; onEnd: () => void }) {
  const { sitting: s, onSkip, onEnd } = props
  const done = s.total - s.left
  const band = s.zeroFrom && s.zeroTo ? `In eight cases of ten between ${clock(s.zeroFrom)} and ${clock(s.zeroTo)}` : ''
  return (
    <header className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 px-4 py-3 max-md:px-2 max-md:py-1.5">
      <h1 className="text-[17px] font-bold max-md:sr-only">Sitting</h1>
      <span className="text-[14px] text-ink-2 max-md:hidden">
        {clock(s.began)} {s.until ? `to ${clock(s.until)}` : 'until zero'}
      </span>
      <div
        role="progressbar"
        aria-label="Decided"
        aria-valuemin={0}
        aria-valuemax={s.total}
        aria-valuenow={done}
        className="h-2.5 min-w-16 flex-1 overflow-hidden rounded-full bg-shore-2"
      >
        <div className="h-full rounded-full bg-tide" style={{ width: `${(100 * done) / Math.max(1, s.total)}%` }} />
      </div>
      <span className="text-[14px] font-semibold" data-left>
        {s.left} left of {s.total}
      </span>
      {s.new > 0 && <span className="chip !bg-tide-2 !text-tide">{s.new} new</span>}
      {s.passed > 0 && <span className="chip max-md:hidden">{s.passed} skipped</span>}
      {paceWords(s.pace) && (
        <span className="text-[14px] text-ink-2 max-lg:hidden" title="The median of today">
          {paceWords(s.pace)}
        </span>
      )}
      {s.zero && (
        <span className="text-[14px] text-ink-2 max-md:hidden" title={band}>
          zero at about <span className="font-semibold tabular-nums">{clock(s.zero)}</span>
          {band && <span className="sr-only">. {band}.</span>}
        </span>
      )}
      <button className="btn lg:hidden" onClick={onSkip} disabled={!onSkip}>
        Skip
      </button>
      <button className="btn" onClick={onEnd}>
        End <span className="max-md:hidden">sitting</span> <span className="key max-md:hidden">Esc</span>
      </button>
    </header>
  )
}
