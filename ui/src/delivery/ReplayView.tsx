import type { ReactNode } from 'react'
import type { Replay } from '../api/client'
import { weekdays } from '../state/plan'
import { dayAndClock, inZone } from '../state/time'

const span = (minutes: number) =>
  minutes < 60
    ? `${minutes} min`
    : minutes < 48 * 60
      ? `${Math.floor(minutes / 60)} h${minutes % 60 ? ` ${minutes % 60} min` : ''}`
      : `${Math.round(minutes / 1440)} days`

const rows: [string, (r: Replay) => ReactNode][] = [
  ['Letters', (r) => String(r.letters)],
  ['As they arrived', (r) => String(r.atOnce)],
  [
    'Let through',
    (r) => (r.entries.length > 0 ? `${r.through}: ${r.entries.map((e) => `${e.words} ${e.letters}`).join(', ')}` : '0'),
  ],
  ['Deliveries', (r) => String(r.deliveries.length)],
  ['Median wait', (r) => span(r.median)],
  ['Longest wait', (r) => span(r.longest)],
  ['Longer than a day', (r) => (r.longer > 0 ? <Longer replay={r} /> : 'none')],
  ['Interruptions avoided', (r) => String(r.avoided)],
]

function Longer({ replay }: { replay: Replay }) {
  return (
    <details>
      <summary className="cursor-pointer">{replay.longer}: which</summary>
      <ul className="pt-1">
        {replay.overDay.map((words, i) => (
          <li key={i}>{words}</li>
        ))}
        {replay.longer > replay.overDay.length && <li>and {replay.longer - replay.overDay.length} more</li>}
      </ul>
    </details>
  )
}

interface Tried {
  name: string
  replay: Replay
}

/** What plans would have done with the letters of last week, side by side. */
export function ReplayTable({ plans }: { plans: Tried[] }) {
  return (
    <SideBySide
      caption="What would have happened last week"
      plans={plans}
      rows={rows.map(([label, of]) => [label, plans.map((p) => of(p.replay))])}
    />
  )
}

/** The letters of each delivery: the chart as a table. */
export function DeliveriesTable({ plans }: { plans: Tried[] }) {
  const letters = plans.map((p) => new Map(p.replay.deliveries.map((d) => [d.at, d.letters])))
  const times = [...new Set(letters.flatMap((l) => [...l.keys()]))].sort(
    (a, b) => new Date(a).getTime() - new Date(b).getTime(),
  )
  return (
    <details className="pt-2 text-[13px]">
      <summary className="cursor-pointer text-ink-2">Each delivery</summary>
      <SideBySide
        caption="Letters of each delivery"
        plans={plans}
        rows={times.map((at) => [dayAndClock(at), letters.map((l) => l.get(at))])}
      />
    </details>
  )
}

function SideBySide({ caption, plans, rows }: { caption: string; plans: Tried[]; rows: [string, ReactNode[]][] }) {
  return (
    <table className="w-full table-fixed text-left text-[13px]">
      <caption className="sr-only">{caption}</caption>
      <thead>
        <tr className="border-b border-line">
          <td className="w-36" />
          {plans.map((p) => (
            <th key={p.name} scope="col" className="py-1 pr-2 font-semibold">
              {p.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(([label, cells]) => (
          <tr key={label} className="border-b border-line align-top">
            <th scope="row" className="py-1 pr-2 font-normal text-ink-2">
              {label}
            </th>
            {cells.map((cell, i) => (
              <td key={i} className="py-1 pr-2 wrap-anywhere">
                {cell}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** Letters of each delivery as bars over days, from a midnight in the person's
 * zone; all plans to one scale. */
export function ReplayCharts({ plans, from }: { plans: Tried[]; from: Date }) {
  const after = (at: string) => (inZone(at).getTime() - from.getTime()) / 86_400_000
  const all = plans.flatMap((p) => p.replay.deliveries)
  const days = Math.max(8, ...all.map((d) => Math.ceil(after(d.at)))) // a rare delivery is weeks off
  const most = Math.max(...all.map((d) => d.letters))
  return plans.map((p) => <Chart key={p.name} {...p} after={after} days={days} most={most} first={from.getDay()} />)
}

function Chart(props: Tried & { after: (at: string) => number; days: number; most: number; first: number }) {
  const { replay, name, after, days, most } = props
  if (replay.deliveries.length === 0)
    return <p className="text-[13px] text-ink-2">{name}: every letter would have come as it arrived.</p>
  const wide = 800 / days
  const own = Math.max(...replay.deliveries.map((d) => d.letters))
  return (
    <figure className="pb-2">
      <figcaption className="pb-1 text-[13px] text-ink-2">
        {name}: letters of each delivery, {own} at most
      </figcaption>
      <svg
        viewBox="0 0 800 90"
        className="h-[90px] w-full"
        preserveAspectRatio="none"
        role="img"
        aria-label={`${name}: ${replay.deliveries.length} deliveries, ${own} letters at most; the table below has the figures`}
      >
        {Array.from({ length: days + 1 }, (_, i) => (
          <line
            key={i}
            x1={i * wide}
            x2={i * wide}
            y1="0"
            y2="80"
            className="stroke-line"
            vectorEffect="non-scaling-stroke"
          />
        ))}
        <line x1="0" x2="800" y1="80" y2="80" className="stroke-ink-3" vectorEffect="non-scaling-stroke" />
        {replay.deliveries.map((d) => {
          const x = after(d.at) * wide
          const h = (d.letters / most) * 72
          return (
            <rect key={d.at} x={x - 4} y={80 - h} width="8" height={h} className="fill-tide">
              <title>{`${d.letters} letters`}</title>
            </rect>
          )
        })}
      </svg>
      <div className="grid auto-cols-fr grid-flow-col text-[11px] text-ink-3" aria-hidden>
        {Array.from({ length: days }, (_, i) => (
          <span key={i}>{weekdays[(props.first + i) % 7]?.slice(0, 3)}</span>
        ))}
      </div>
    </figure>
  )
}
