import { memo } from 'react'
import { useOverview } from '../api/queries'
import { useCounted } from '../state/counted'
import { clock } from '../state/time'

/** The tide staff: today's inbox from the high mark down to zero. */
export const Staff = memo(function Staff() {
  const overview = useCounted(useOverview().data)
  if (!overview) return null
  const high = Math.max(overview.high, overview.inbox, 1)
  const share = overview.inbox / high
  const low = overview.inbox === 0 && overview.lowWater
  const words = low
    ? `low water ${clock(overview.lowWater ?? '')}`
    : `${overview.inbox} in the inbox, ${high} at most today`
  const step = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000].find((n) => high / n <= 16) ?? 10_000
  const ticks = Array.from({ length: Math.floor(high / step) }, (_, i) => ((i + 1) * step) / high)
  return (
    <div role="img" aria-label={words} className="hidden w-[58px] shrink-0 flex-col md:flex">
      <div className="pb-1 text-[12px] text-ink-3">today</div>
      <div className="relative mr-7 min-h-24 flex-1">
        <div className="absolute inset-0 overflow-hidden rounded-lg border border-line bg-paper">
          <div className="settle absolute inset-x-0 bottom-0 bg-tide" style={{ height: `${share * 100}%` }}>
            {share > 0 && (
              <svg
                viewBox="0 0 28 6"
                preserveAspectRatio="none"
                className="absolute -top-1 h-1.5 w-full fill-tide"
                aria-hidden
              >
                <path d="M0 6V3c4-4 8 3 14 0s10-3 14 0v3z" />
              </svg>
            )}
          </div>
          {ticks.map((t, i) => (
            <div
              key={t}
              className={`absolute left-0 h-px bg-ink/25 ${(i + 1) % 5 === 0 ? 'w-4' : 'w-2'}`}
              style={{ bottom: `${t * 100}%` }}
            />
          ))}
        </div>
        {share < 0.94 && <Tick at={1} text={String(high)} className="text-ink-3" />}
        {!low && <Tick at={share} text={String(overview.inbox)} className="font-bold" />}
      </div>
      <div className={`pt-1 text-[12px] ${low ? 'font-semibold text-kelp' : 'text-kelp'}`}>
        {low ? (
          <>
            low water
            <br />
            {clock(overview.lowWater ?? '')}
          </>
        ) : (
          '0'
        )}
      </div>
    </div>
  )
})

function Tick({ at, text, className }: { at: number; text: string; className: string }) {
  return (
    <div
      className={`settle absolute left-full ml-0.5 translate-y-1/2 text-[12px] whitespace-nowrap ${className}`}
      style={{ bottom: `${Math.min(at, 0.985) * 100}%` }}
    >
      <span aria-hidden>◂</span>
      {text}
    </div>
  )
}
