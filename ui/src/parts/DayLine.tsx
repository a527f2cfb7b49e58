import { useNavigate } from '@tanstack/react-router'
import type { Day } from '../api/client'
import { useDay, useOverview } from '../api/queries'
import { clock, longDay, serverNow } from '../state/time'

const height = 74
const ground = 66

/** The day on a time axis: held and open, what comes back, what is due, and
 * the inbox as it was. */
export function DayLine() {
  const { data: day } = useDay()
  const { data: overview } = useOverview()
  if (!day) return <div className="mx-4 h-[92px] rounded-[14px] bg-paper/60 max-md:h-12" />
  const start = new Date(day.start).getTime()
  const end = new Date(day.end).getTime()
  const x = (at: string | Date) => ((new Date(at).getTime() - start) / (end - start)) * 1000
  const now = serverNow()
  const high = Math.max(day.high, 4)
  const y = (count: number) => ground - (count / high) * (ground - 26)
  const hours = hoursBetween(start, end)
  return (
    <section aria-label="Day line" className="mx-4 max-md:mx-2">
      <div className="relative h-[92px] overflow-hidden rounded-[14px] bg-paper max-md:h-14">
        <svg
          viewBox={`0 0 1000 ${height}`}
          preserveAspectRatio="none"
          className="absolute inset-x-0 top-0 h-[74px] w-full max-md:h-10"
          aria-hidden
        >
          <path d={curve(day, x, y, now)} className="fill-tide/15 stroke-none" />
          <path
            d={edge(day, x, y, now)}
            fill="none"
            className="stroke-tide"
            strokeWidth="2"
            vectorEffect="non-scaling-stroke"
          />
          <line x1="0" x2="1000" y1={ground} y2={ground} className="stroke-line" vectorEffect="non-scaling-stroke" />
        </svg>
        {day.held.map((b) => (
          <div
            key={b.from}
            title={`Held ${clock(b.from)} to ${clock(b.to)}`}
            className="hatched absolute top-0 h-[66px] bg-shore/60 max-md:h-10"
            style={{ left: `${x(b.from) / 10}%`, width: `${(x(b.to) - x(b.from)) / 10}%` }}
          />
        ))}
        {hours
          .filter((h) => x(new Date(h)) > 12 && x(new Date(h)) < 988 && Math.abs(x(new Date(h)) - x(now)) > 30)
          .map((h) => (
            <span
              key={h}
              className="absolute top-[75px] -translate-x-1/2 text-[11px] text-ink-3 max-md:top-10"
              style={{ left: `${x(new Date(h)) / 10}%` }}
            >
              {clock(new Date(h)).slice(0, 2)}
            </span>
          ))}
        <Marks day={day} x={x} />
        <Now at={x(now) / 10} text={clock(now)} />
        <span className="pointer-events-none absolute top-1 left-3 text-[12px] font-semibold max-md:hidden">
          {longDay(day.now)}
          {overview?.hold && <span className="ml-2 font-medium text-lamp">held {overview.hold.words}</span>}
        </span>
      </div>
      <p className="sr-only">{inWords(day)}</p>
    </section>
  )
}

function Now({ at, text }: { at: number; text: string }) {
  return (
    <div className="pointer-events-none absolute top-0 h-full" style={{ left: `${at}%` }}>
      <div className="h-[70px] w-0.5 -translate-x-1/2 bg-ink max-md:h-9" />
      <div className="absolute top-[72px] -translate-x-1/2 rounded-md bg-ink px-1.5 text-[11px] font-semibold text-paper max-md:top-9">
        {text}
      </div>
    </div>
  )
}

/** Marks close to each other are one, so that names don't overlap. */
function Marks({ day, x }: { day: Day; x: (at: string) => number }) {
  const go = useNavigate()
  const groups: { kind: string; at: number; items: Day['marks'] }[] = []
  for (const m of [...day.marks].sort((a, b) => a.at.localeCompare(b.at))) {
    const near = groups.find((g) => g.kind === m.kind && x(m.at) - g.at < 14)
    if (near) near.items.push(m)
    else groups.push({ kind: m.kind, at: x(m.at), items: [m] })
  }
  return groups.map((g, i) => {
    const [first] = g.items
    if (!first) return null
    const isDue = g.kind === 'due'
    const text = g.items.length > 1 ? `${g.items.length} ${isDue ? 'due' : 'back'}` : first.title
    const next = groups.find((o, j) => j > i && o.kind === g.kind)
    const room = Math.min(((next?.at ?? 1000) - g.at) / 10 - 1.5, 14)
    return (
      <button
        key={`${g.kind}${g.at}`}
        title={g.items.map((m) => `${clock(m.at)} ${m.title}`).join('\n')}
        aria-label={`${isDue ? 'Due' : 'Comes back'} ${clock(first.at)}: ${g.items.map((m) => m.title).join(', ')}`}
        onClick={() =>
          isDue
            ? void go({ to: '/follow-ups' })
            : g.items.length > 1 || !first.conversation
              ? void go({ to: '/ahead' })
              : void go({ to: '/letter/$id', params: { id: String(first.conversation) } })
        }
        className={`absolute flex -translate-x-[6px] items-center gap-1 rounded px-0 text-left text-[11px] font-medium hover:z-10 hover:bg-paper ${isDue ? 'top-[24px] max-md:top-[4px]' : 'top-[45px] max-md:top-[22px]'} ${first.late ? 'text-buoy' : 'text-ink'}`}
        style={{ left: `${g.at / 10}%`, maxWidth: `max(22px, ${room}%)` }}
      >
        <span
          aria-hidden
          className={`size-2.5 shrink-0 ${isDue ? 'rotate-45 bg-current' : 'rounded-full border-2 border-tide bg-paper'}`}
        />
        <span className="truncate max-md:hidden">{text}</span>
      </button>
    )
  })
}

function hoursBetween(start: number, end: number): number[] {
  const hour = 3_600_000
  const every = end - start > 14 * hour ? 2 : 1
  const out: number[] = []
  for (let t = Math.ceil(start / hour) * hour; t < end; t += every * hour) out.push(t)
  return out
}

function edge(day: Day, x: (at: string | Date) => number, y: (n: number) => number, now: Date): string {
  let path = ''
  let last = 0
  for (const p of day.curve) {
    const at = Math.min(Math.max(x(p.at), 0), x(now))
    path += path ? `H${at}V${y(p.count)}` : `M${at} ${y(p.count)}`
    last = p.count
  }
  return path && `${path}H${Math.max(0, x(now))}V${y(last)}`
}

function curve(day: Day, x: (at: string | Date) => number, y: (n: number) => number, now: Date): string {
  const top = edge(day, x, y, now)
  const first = day.curve[0]
  if (!top || !first) return ''
  return `${top}V${ground}H${Math.max(0, x(first.at))}Z`
}

function inWords(day: Day): string {
  const parts = [`${longDay(day.now)}, ${clock(day.now)}.`]
  for (const b of day.held) parts.push(`Delivery held from ${clock(b.from)} to ${clock(b.to)}.`)
  for (const m of day.marks) parts.push(`${clock(m.at)}: ${m.kind === 'due' ? 'due' : 'comes back'}, ${m.title}.`)
  return parts.join(' ')
}
