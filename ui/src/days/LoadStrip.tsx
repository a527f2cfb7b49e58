import type { DayLoad } from '../api/client'

/** The next two weeks: the minutes that stand on each day, against the free
 * ones. A day can be chosen. */
export function LoadStrip(props: { days: DayLoad[]; chosen?: string; onPick?: (d: DayLoad) => void }) {
  const most = Math.max(60, ...props.days.map((d) => Math.max(d.planned, d.free)))
  return (
    <div className="shrink-0 pb-2">
      <div role="group" aria-label="The days to come" className="grid grid-cols-14 gap-1 max-md:gap-0.5">
        {props.days.map((d) => {
          const on = d.date === props.chosen
          return (
            <button
              key={d.date}
              type="button"
              tabIndex={-1}
              aria-pressed={on}
              title={`${d.weekday} ${d.number}${load(d)}`}
              onMouseDown={(e) => e.preventDefault()}
              onClick={() => props.onPick?.(d)}
              className={`flex flex-col items-stretch rounded-lg px-0.5 pt-1 pb-0.5 ${on ? 'bg-deep text-on-deep' : 'hover:bg-shore'}`}
            >
              <span className="relative mx-auto flex h-14 w-4 items-end max-md:w-3" aria-hidden>
                {d.free > 0 && (
                  <span
                    className={`absolute inset-x-[-3px] border-t border-dashed ${on ? 'border-on-deep' : 'border-ink-3'}`}
                    style={{ bottom: `${(d.free / most) * 100}%` }}
                  />
                )}
                <span
                  className={`w-full rounded-t-[4px] ${d.over ? 'hatched-over bg-buoy' : on ? 'bg-tide-2' : 'bg-tide/55'}`}
                  style={{ height: `${Math.max((d.planned / most) * 100, d.planned > 0 ? 4 : 1)}%` }}
                />
              </span>
              <span
                className={`text-center text-[11px] font-semibold max-md:text-[9.5px] ${d.free === 0 && !on ? 'text-ink-3' : ''}`}
              >
                {d.weekday}{' '}
              </span>
              <span className={`text-center text-[11px] ${on ? '' : 'text-ink-2'}`}>{d.number}</span>
              <span className="sr-only">{load(d)}</span>
            </button>
          )
        })}
      </div>
      <p className="pt-1 text-[12px] text-ink-3">
        Minutes of follow-ups and returns already on each day; the dashes are your free time
      </p>
    </div>
  )
}

function load(d: DayLoad): string {
  const what = `: ${d.planned} min planned`
  if (d.free === 0) return `${what}, no working time`
  return `${what} of ${d.free} free${d.over ? ', over-full' : ''}`
}
