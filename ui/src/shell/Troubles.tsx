import { TriangleAlert } from 'lucide-react'
import { useNavigate } from '@tanstack/react-router'
import { api, errorText, take, type Overview } from '../api/client'
import { refresh } from '../api/stale'
import { failed } from '../state/failed'

const shown = 3

/** What could not happen, why, and when it is tried again. The rest of the day
 * goes on without it. */
export function Troubles({ troubles }: { troubles: Overview['troubles'] }) {
  const go = useNavigate()
  const again = (id: number) =>
    void take(api.POST('/api/troubles/{id}/again', { params: { path: { id } } })).then(
      () => refresh(['overview']),
      (e: unknown) => failed(errorText(e, 'It could not be tried again.')),
    )
  return (
    <section aria-label="What could not happen" aria-live="polite" className="mx-4 mt-2 space-y-1 max-md:mx-2">
      {troubles.slice(0, shown).map((t) => (
        <div
          key={`${t.id ?? ''}${t.title}`}
          className="flex flex-wrap items-center gap-2 rounded-[12px] bg-buoy-2 px-3 py-1.5 text-buoy"
        >
          <TriangleAlert className="size-4 shrink-0" aria-hidden />
          <span className="min-w-40 flex-1 font-semibold">
            {t.title}
            <span className="font-normal">
              {t.again && `, ${t.again}`}. {t.reason}
            </span>
          </span>
          {t.id && (
            <button className="btn btn-small text-ink" onClick={() => again(t.id ?? 0)}>
              Try now
            </button>
          )}
          {t.draft && (
            <button className="btn btn-small text-ink" onClick={() => void go({ to: '/drafts' })}>
              Open the drafts
            </button>
          )}
        </div>
      ))}
      {troubles.length > shown && (
        <p className="px-3 text-[13px] text-buoy">and {troubles.length - shown} more of these</p>
      )}
    </section>
  )
}
