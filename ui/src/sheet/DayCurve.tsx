import type { DaySheet } from '../api/client'
import { clock } from '../state/time'

const height = 150
const ground = 140

/** The inbox over the day, with its low waters. What is drawn stands in words beside it. */
export function DayCurve({ sheet }: { sheet: DaySheet }) {
  const start = new Date(sheet.begin).getTime()
  const end = new Date(sheet.end).getTime()
  const x = (at: string | number) => ((new Date(at).getTime() - start) / (end - start)) * 1000
  const y = (n: number) => ground - (n / Math.max(sheet.high, 4)) * (ground - 12)
  const line = sheet.curve.map((p, i) => (i === 0 ? `M${x(p.at)} ${y(p.count)}` : `H${x(p.at)}V${y(p.count)}`)).join('')
  const last = sheet.curve.at(-1)
  const area = line && last ? `${line}V${ground}H${x(sheet.curve[0]?.at ?? start)}Z` : ''
  const hours: number[] = []
  for (let t = Math.ceil(start / 3_600_000) * 3_600_000; t < end; t += 3_600_000) hours.push(t)
  const every = hours.length > 16 ? 3 : 1
  return (
    <div className="relative h-[196px] overflow-hidden" aria-hidden>
      <svg
        viewBox={`0 0 1000 ${height}`}
        preserveAspectRatio="none"
        className="absolute inset-x-0 top-4 h-[150px] w-full"
      >
        <path d={area} className="fill-tide/15 stroke-none" />
        <path d={line} fill="none" className="stroke-tide" strokeWidth="2" vectorEffect="non-scaling-stroke" />
        <line x1="0" x2="1000" y1={ground} y2={ground} className="stroke-line" vectorEffect="non-scaling-stroke" />
      </svg>
      {hours
        .filter((t, i) => i % every === 0 && x(t) > 12 && x(t) < 988)
        .map((t) => (
          <span
            key={t}
            className="absolute top-[164px] -translate-x-1/2 text-[11px] text-ink-3"
            style={{ left: `${x(t) / 10}%` }}
          >
            {clock(new Date(t)).slice(0, 2)}
          </span>
        ))}
      {sheet.high > 0 && <span className="absolute top-0 left-0 text-[11px] text-ink-3">{sheet.high} at most</span>}
      {sheet.zeros.map((z, i) => (
        <span key={z} className="absolute" style={{ left: `${x(z) / 10}%`, top: `${16 + ground}px` }}>
          <span className="absolute size-3 -translate-1/2 rounded-full border-[3px] border-kelp bg-paper" />
          <span
            className={`absolute -top-7 rounded-md bg-paper/85 px-1 text-[12px] font-semibold whitespace-nowrap text-kelp ${x(z) > 850 ? 'right-1' : 'left-1'}`}
          >
            {i === 0 ? `low water ${clock(z)}` : clock(z)}
          </span>
        </span>
      ))}
    </div>
  )
}
