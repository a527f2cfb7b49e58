import { useNavigate } from '@tanstack/react-router'
import type { Sitting } from '../api/client'
import { sittingDown } from '../state/sitting'
import { clock } from '../state/time'
import { DecidedList } from './Around'

/** What a sitting came to. */
export function Account({ sitting: s }: { sitting: Sitting }) {
  const go = useNavigate()
  const minutes = s.ended ? Math.max(1, Math.round((Date.parse(s.ended) - Date.parse(s.began)) / 60_000)) : 0
  return (
    <main aria-label="Sitting" className="min-h-0 flex-1 overflow-y-auto px-4">
      <div className="mx-auto max-w-2xl py-8" role="status">
        <h1 className="serif !text-[30px] !leading-tight">
          {s.id === 0 ? 'No sitting yet' : s.done === 0 ? 'Nothing was decided' : `${s.done} decided`}
        </h1>
        <p className="pt-1 pb-4 text-ink-2">
          {s.id === 0
            ? 'A sitting shows one letter after the other, for a time that you choose.'
            : `${clock(s.began)} to ${clock(s.ended ?? s.began)}, ${minutes} min, of ${s.heap}.${s.sums ? ` ${s.sums[0]?.toUpperCase()}${s.sums.slice(1)}.` : ''}`}
        </p>
        <div className="flex flex-wrap gap-2 pb-6">
          <button className="btn btn-main" autoFocus data-home onClick={() => sittingDown.set({})}>
            Another sitting
          </button>
          <button className="btn" onClick={() => void go({ to: '/inbox' })}>
            To the inbox <span className="key">Esc</span>
          </button>
        </div>
        {s.decided.length > 0 && (
          <>
            <h2 className="border-b border-line pb-1 text-[14px] font-semibold">Decided</h2>
            <DecidedList sitting={s} most={200} />
          </>
        )}
      </div>
    </main>
  )
}
