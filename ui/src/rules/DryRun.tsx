import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { api, errorText, take } from '../api/client'
import type { RuleDraft } from '../state/rules'
import { stamp } from '../state/time'

/** What a rule would have done in the last days, asked anew with each change of it. */
export const useDryRun = ({ conditions, steps }: RuleDraft) =>
  useQuery({
    queryKey: ['rules', 'try', conditions, steps],
    queryFn: ({ signal }) => take(api.POST('/api/rules/try', { body: { conditions, steps }, signal })),
    placeholderData: keepPreviousData,
    gcTime: 0,
  })

/** It, shown: how many letters, what speaks against it, and which. */
export function DryRun({ of }: { of: ReturnType<typeof useDryRun> }) {
  const { data, isError, error, isFetching } = of
  if (isError && !data)
    return (
      <p className="rounded-lg bg-buoy-2 px-3 py-2 text-buoy">{errorText(error, 'The trial could not be read.')}</p>
    )
  const unread = of.isPlaceholderData && of.failureCount > 0
  if (!data) return <div aria-busy className="h-24 animate-pulse rounded-lg bg-shore-2" />
  return (
    <section aria-label="Trial" className={isFetching ? 'opacity-70' : ''}>
      {unread && (
        <p role="status" className="mb-1 rounded-lg bg-buoy-2 px-3 py-2 text-[14px] text-buoy">
          This is as it was before your last change: Ebbe can’t be reached to try it.
        </p>
      )}
      <div role="status" className="grid gap-1 text-[14px]">
        {data.off && <p className="rounded-lg bg-shore px-3 py-2 text-ink-2">{data.off}</p>}
        {data.of > 0 && (
          <p className="rounded-lg bg-tide-3 px-3 py-2">
            In the last 60 days: <strong>{data.n}</strong> of {data.of} letters
            {data.words && <>, each: {data.words}</>}. {data.here > 0 && <>{data.here} of those that wait now, too.</>}
          </p>
        )}
        {data.against.map((a) => (
          <p key={a} className="rounded-lg bg-lamp-2 px-3 py-2">
            Against it: {a}.
          </p>
        ))}
      </div>
      {data.letters.length > 0 && (
        <ul
          className="mt-2 max-h-[26rem] overflow-y-auto max-lg:max-h-52 rounded-lg border border-line"
          tabIndex={0}
          aria-label="Its letters"
        >
          {data.letters.map((l, i) => (
            <li
              key={i}
              className={`flex items-baseline gap-2 border-b border-line px-3 py-1 text-[13px] last:border-0 ${l.otherwise ? 'bg-lamp-2' : ''}`}
            >
              <span className="w-28 shrink-0 truncate font-semibold">{l.from}</span>
              <span className="min-w-0 flex-1 truncate">{l.subject}</span>
              {l.did && <span className="shrink-0 text-ink-2">{l.did.toLowerCase()}</span>}
              <span className="shrink-0 whitespace-nowrap text-ink-3 max-md:hidden">{stamp(l.at)}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}
