import type { Replay } from '../api/client'

const span = (minutes: number) =>
  minutes < 60
    ? `${minutes} min`
    : minutes < 48 * 60
      ? `${Math.floor(minutes / 60)} h${minutes % 60 ? ` ${minutes % 60} min` : ''}`
      : `${Math.round(minutes / 1440)} days`

const rows: [string, (r: Replay) => string][] = [
  ['Letters', (r) => String(r.letters)],
  ['As they arrived', (r) => String(r.atOnce)],
  [
    'Let through',
    (r) => (r.entries.length > 0 ? `${r.through}: ${r.entries.map((e) => `${e.words} ${e.letters}`).join(', ')}` : '0'),
  ],
  ['Deliveries', (r) => String(r.deliveries.length)],
  ['Median wait', (r) => span(r.median)],
  ['Longest wait', (r) => span(r.longest)],
  [
    'Longer than a day',
    (r) =>
      r.longer > 0 ? `${r.longer}: ${r.overDay.join('; ')}${r.longer > r.overDay.length ? '; and more' : ''}` : 'none',
  ],
  ['Interruptions avoided', (r) => String(r.avoided)],
]

/** What plans would have done with the letters of last week, side by side. */
export function ReplayTable({ plans }: { plans: { name: string; replay: Replay }[] }) {
  return (
    <table className="w-full table-fixed text-left text-[13px]">
      <caption className="sr-only">What would have happened last week</caption>
      <thead>
        <tr className="border-b border-line">
          <td className="w-36 max-md:w-24" />
          {plans.map((p) => (
            <th key={p.name} scope="col" className="py-1 pr-2 font-semibold">
              {p.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(([label, of]) => (
          <tr key={label} className="border-b border-line align-top">
            <th scope="row" className="py-1 pr-2 font-normal text-ink-2">
              {label}
            </th>
            {plans.map((p) => (
              <td key={p.name} className="py-1 pr-2">
                {of(p.replay)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** Letters of each delivery of the week, as bars over its days. */
export function ReplayChart({ replay, name, days }: { replay: Replay; name: string; days: string[] }) {
  const first = replay.deliveries[0]
  if (!first) return <p className="text-[13px] text-ink-2">{name}: every letter would have come as it arrived.</p>
  const start = new Date(days[0] ?? first.at).getTime()
  const length = 8 * 86_400_000
  const most = Math.max(...replay.deliveries.map((d) => d.letters))
  return (
    <figure className="pb-2">
      <figcaption className="pb-1 text-[13px] text-ink-2">
        {name}: letters of each delivery, {most} at most
      </figcaption>
      <svg
        viewBox="0 0 800 90"
        className="h-[90px] w-full"
        preserveAspectRatio="none"
        role="img"
        aria-label={`${name}: ${replay.deliveries.length} deliveries, ${most} letters at most; the table below has the figures`}
      >
        {Array.from({ length: 9 }, (_, i) => (
          <line
            key={i}
            x1={i * 100}
            x2={i * 100}
            y1="0"
            y2="80"
            className="stroke-line"
            vectorEffect="non-scaling-stroke"
          />
        ))}
        <line x1="0" x2="800" y1="80" y2="80" className="stroke-ink-3" vectorEffect="non-scaling-stroke" />
        {replay.deliveries.map((d) => {
          const x = ((new Date(d.at).getTime() - start) / length) * 800
          const h = (d.letters / most) * 72
          return (
            <rect key={d.at} x={x - 4} y={80 - h} width="8" height={h} className="fill-tide">
              <title>{`${d.letters} letters`}</title>
            </rect>
          )
        })}
      </svg>
      <div className="grid grid-cols-8 text-[11px] text-ink-3" aria-hidden>
        {Array.from({ length: 8 }, (_, i) => (
          <span key={i}>
            {new Date(start + i * 86_400_000 + 43_200_000).toLocaleDateString('en-GB', { weekday: 'short' })}
          </span>
        ))}
      </div>
    </figure>
  )
}
