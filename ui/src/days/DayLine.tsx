import { useNavigate } from '@tanstack/react-router'
import { ChevronLeft, ChevronRight, Waves } from 'lucide-react'
import { memo, useState } from 'react'
import type { Day, Entry } from '../api/client'
import { useDay, useOverview } from '../api/queries'
import { carryOut, told } from '../state/commands'
import { appointing } from '../state/appointing'
import { dragged, letters } from '../state/dragging'
import { useKeys } from '../state/keys'
import { causes, gateShort } from '../state/gate'
import { clock, serverNow } from '../state/time'
import { failed } from '../state/failed'

const height = 74
const ground = 66

type Scale = (at: string | Date) => number

/** A day on a time axis: held and open, what comes back, what is due, the
 * inbox as it was and as it is expected to be. Letters can be dropped on it. */
export const DayLine = memo(function DayLine() {
  const [away, setAway] = useState(0)
  const { data: day } = useDay(away)
  const { data: overview } = useOverview()
  const [over, setOver] = useState<Date>()
  useKeys({
    dayBefore: () => setAway((n) => Math.max(n - 1, -366)),
    dayAfter: () => setAway((n) => Math.min(n + 1, 366)),
  })
  if (!day) return <div className="mx-4 h-[92px] rounded-[14px] bg-paper/60 low:h-[46px]" />
  const start = new Date(day.start).getTime()
  const end = new Date(day.end).getTime()
  const x: Scale = (at) => ((new Date(at).getTime() - start) / (end - start)) * 1000
  const now = serverNow()
  const high = Math.max(day.high, 4)
  const y = (count: number) => ground - (count / high) * (ground - 26)
  const hours = hoursBetween(start, end)
  const timeAt = (e: React.DragEvent) => {
    const box = e.currentTarget.getBoundingClientRect()
    const at = start + ((e.clientX - box.left) / box.width) * (end - start)
    return new Date(Math.round(at / 300_000) * 300_000)
  }
  const drop = (e: React.DragEvent) => {
    e.preventDefault()
    setOver(undefined)
    const on = letters(e)
    const at = timeAt(e)
    if (on.length === 0) return
    if (at <= now) return void failed('That has passed. Drop the letter to the right of now.')
    const hides = on.map((t) => t.id)
    void carryOut({
      path: 'decide',
      body: { kind: 'later', when: at.toISOString().slice(0, 16) + 'Z', on },
      hides,
    }).then(told)
  }
  return (
    <section aria-label="Day line" className="mx-4 max-md:mx-2">
      <div
        className="group relative h-[92px] overflow-hidden rounded-[14px] bg-paper low:h-[46px]"
        onDragOver={(e) => {
          if (!dragged(e)) return
          e.preventDefault()
          setOver(timeAt(e))
        }}
        onDragLeave={(e) => {
          if (!e.currentTarget.contains(e.relatedTarget as Node | null)) setOver(undefined)
        }}
        onDrop={drop}
      >
        <svg
          viewBox={`0 0 1000 ${height}`}
          preserveAspectRatio="none"
          className="absolute inset-x-0 top-0 h-[74px] w-full low:h-[32px]"
          aria-hidden
        >
          <path d={curve(day, x, y)} className="fill-tide/15 stroke-none" />
          <path
            d={edge(day, x, y)}
            fill="none"
            className="stroke-tide"
            strokeWidth="2"
            vectorEffect="non-scaling-stroke"
          />
          <path
            d={day.expected.map((p, i) => `${i ? 'L' : 'M'}${x(p.at)} ${y(p.count)}`).join('')}
            fill="none"
            className="stroke-tide"
            strokeWidth="1.5"
            strokeDasharray="3 4"
            vectorEffect="non-scaling-stroke"
          />
          <line x1="0" x2="1000" y1={ground} y2={ground} className="stroke-line" vectorEffect="non-scaling-stroke" />
        </svg>
        {day.held.map((b) => (
          <div
            key={b.cause + b.from}
            title={`${causes[b.cause]}, ${clock(b.from)} to ${clock(b.to)}`}
            className={`absolute top-0 h-[66px] low:h-[30px] ${b.cause === 'closed' ? 'bg-heather-2/50' : 'hatched bg-shore/60'}`}
            style={{ left: `${x(b.from) / 10}%`, width: `${(x(b.to) - x(b.from)) / 10}%` }}
          />
        ))}
        {day.rounds.map((r) => (
          <div
            key={r}
            title={`${clock(r)} round: mail is let in`}
            className="absolute top-[60px] size-0 -translate-x-1/2 border-x-[5px] border-b-[7px] border-x-transparent border-b-tide low:top-[22px]"
            style={{ left: `${x(r) / 10}%` }}
          />
        ))}
        {day.up.map((u) => (
          <span
            key={u.at}
            title={`${clock(u.at)}: ${u.what} comes up out of the Shallows`}
            className="absolute top-[55px] -translate-x-1/2 text-kelp low:top-[17px]"
            style={{ left: `${x(u.at) / 10}%` }}
          >
            <Waves className="size-3.5" aria-hidden />
          </span>
        ))}
        {hours
          .filter(
            (h) =>
              x(new Date(h)) > 12 &&
              x(new Date(h)) < 988 &&
              (away !== 0 || Math.abs(x(new Date(h)) - x(now)) > 30) &&
              (!over || Math.abs(x(new Date(h)) - x(over)) > 30),
          )
          .map((h) => (
            <span
              key={h}
              className="absolute top-[75px] -translate-x-1/2 text-[11px] text-ink-3 low:top-[30px]"
              style={{ left: `${x(new Date(h)) / 10}%` }}
            >
              {clock(new Date(h)).slice(0, 2)}
            </span>
          ))}
        <Appointments day={day} x={x} />
        <Marks day={day} x={x} />
        {away === 0 && <Now at={x(now) / 10} text={clock(now)} />}
        {over && (
          <div className="pointer-events-none absolute top-0 h-full" style={{ left: `${x(over) / 10}%` }}>
            <div className="h-[70px] w-0.5 -translate-x-1/2 bg-lamp" />
            <div className="absolute top-[72px] -translate-x-1/2 rounded-md bg-lamp px-1.5 text-[11px] font-semibold whitespace-nowrap text-paper">
              {over <= now ? 'has passed' : clock(over)}
            </div>
          </div>
        )}
        <div className="absolute top-0.5 left-1.5 flex items-center gap-0.5 rounded-lg bg-paper/85 pr-2 text-[12px] font-semibold low:hidden">
          <Page label="The day before" onClick={() => setAway(away - 1)}>
            <ChevronLeft className="size-4" aria-hidden />
          </Page>
          <Page label="The day after" onClick={() => setAway(away + 1)}>
            <ChevronRight className="size-4" aria-hidden />
          </Page>
          <span className="pl-1">{day.label}</span>
          {away !== 0 && (
            <button className="ml-2 font-medium text-tide hover:underline" onClick={() => setAway(0)}>
              Back to today
            </button>
          )}
          {away === 0 && overview && !overview.gate.open && (
            <span className="ml-1.5 font-medium text-lamp">held {gateShort(overview.gate)}</span>
          )}
        </div>
        {/* Where the line is low there is room for the days' names only on other days. */}
        <div className="absolute inset-y-0 left-0 hidden low:grid">
          <Page label="The day before" onClick={() => setAway(away - 1)}>
            <ChevronLeft className="size-4" aria-hidden />
          </Page>
        </div>
        <div className="absolute inset-y-0 right-0 hidden low:grid">
          <Page label="The day after" onClick={() => setAway(away + 1)}>
            <ChevronRight className="size-4" aria-hidden />
          </Page>
        </div>
        {away !== 0 && (
          <button
            className="absolute top-0 left-7 hidden min-h-6 rounded-lg bg-paper/85 px-1.5 text-[12px] font-semibold low:block"
            aria-label={`${day.label}. Back to today`}
            onClick={() => setAway(0)}
          >
            {day.label} <span className="font-medium text-tide">today</span>
          </button>
        )}
      </div>
      <p className="sr-only">{inWords(day, away === 0)}</p>
    </section>
  )
})

function Page(props: { label: string; onClick: () => void; children: React.ReactNode }) {
  return (
    <button
      aria-label={props.label}
      title={props.label}
      className="grid size-6 place-items-center rounded-md text-ink-3 hover:bg-tide-3 hover:text-ink low:h-full"
      onClick={props.onClick}
    >
      {props.children}
    </button>
  )
}

function Now({ at, text }: { at: number; text: string }) {
  return (
    <div className="pointer-events-none absolute top-0 h-full" style={{ left: `${at}%` }}>
      <div className="h-[70px] w-0.5 -translate-x-1/2 bg-ink low:h-[30px]" />
      <div className="absolute top-[72px] -translate-x-1/2 rounded-md bg-ink px-1.5 text-[11px] font-semibold text-paper low:top-[29px]">
        {text}
      </div>
    </div>
  )
}

const said = {
  return: 'comes back',
  limit: 'no answer until then',
  reminder: 'reminder',
  due: 'due',
  appointment: 'appointment',
  send: 'leaves',
} as const

/** Appointments are bars as long as they take. */
function Appointments({ day, x }: { day: Day; x: Scale }) {
  // Too small to be touched; there the text and Ahead have them.
  const touch = matchMedia('(max-width: 767px)').matches
  return day.marks
    .filter((m) => m.kind === 'appointment' && m.at && m.end)
    .map((m) => {
      const from = Math.min(Math.max(x(m.at ?? ''), 0), 1000)
      const to = Math.min(x(m.end ?? ''), 1000)
      if (to <= 0 || from >= 1000) return null
      const words = `${clock(m.at ?? '')} to ${clock(m.end ?? '')}: appointment, ${m.title}${m.note ? `, ${m.note}` : ''}`
      if (touch)
        return (
          <span
            key={m.id}
            aria-hidden
            className="absolute top-0 h-2 rounded-md border border-heather/50 bg-heather-2"
            style={{ left: `${from / 10}%`, width: `max(8px, ${(to - from) / 10}%)` }}
          />
        )
      return (
        <button
          key={m.id}
          title={words}
          aria-label={words}
          onClick={() => appointing.set({ id: m.id })}
          className="absolute top-0 flex h-6 items-center hover:z-10"
          style={{ left: `${from / 10}%`, width: `max(24px, ${(to - from) / 10}%)` }}
        >
          <span className="h-[17px] w-full truncate rounded-md border border-heather/50 bg-heather-2 px-1 text-left text-[11px] leading-[15px] font-medium text-heather">
            {m.title}
          </span>
        </button>
      )
    })
}

/** Marks close to each other are one, so that names don't overlap. */
function Marks({ day, x }: { day: Day; x: Scale }) {
  const go = useNavigate()
  const groups: { low: boolean; at: number; items: Entry[] }[] = []
  for (const m of day.marks) {
    if (!m.at || m.kind === 'appointment') continue
    const low = m.kind === 'return' || m.kind === 'limit'
    const at = x(m.at)
    const near = groups.find((g) => g.low === low && at - g.at < 14)
    if (near) near.items.push(m)
    else groups.push({ low, at, items: [m] })
  }
  return groups.map((g, i) => {
    const [first] = g.items
    if (!first?.at) return null
    const text = g.items.length > 1 ? `${g.items.length} ${g.low ? 'back' : 'due'}` : first.title
    const next = groups.find((o, j) => j > i && o.low === g.low)
    const room = Math.min(((next?.at ?? 1000) - g.at) / 10 - 1.5, 14)
    return (
      <button
        key={`${String(g.low)}${g.at}`}
        title={g.items.map((m) => `${clock(m.at ?? '')} ${said[m.kind]}: ${m.title}`).join('\n')}
        aria-label={`${g.items.length > 1 ? `${text}, ` : ''}${clock(first.at)}: ${g.items.map((m) => `${said[m.kind]}, ${m.title}`).join('; ')}`}
        onClick={() =>
          g.items.length > 1
            ? void go({ to: '/ahead' })
            : first.conversation
              ? void go({ to: '/letter/$id', params: { id: String(first.conversation) } })
              : void go({ to: '/follow-ups', search: { open: first.followUp } })
        }
        className={`absolute flex -translate-x-[6px] items-center gap-1 rounded px-0 text-left text-[11px] font-medium hover:z-10 hover:bg-paper ${g.low ? 'top-[45px] low:top-[16px]' : 'top-[24px] low:top-[2px]'} ${first.late ? 'text-buoy' : 'text-ink'}`}
        style={{ left: `${g.at / 10}%`, maxWidth: `max(22px, ${room}%)` }}
      >
        <span
          aria-hidden
          className={`size-2.5 shrink-0 ${g.low ? 'rounded-full border-2 border-tide bg-paper' : 'rotate-45 bg-current'}`}
        />
        {room > 5 && <span className="truncate rounded bg-paper low:hidden">{text}</span>}
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

function edge(day: Day, x: Scale, y: (n: number) => number): string {
  let path = ''
  for (const p of day.curve) {
    const at = Math.min(Math.max(x(p.at), 0), 1000)
    path += path ? `H${at}V${y(p.count)}` : `M${at} ${y(p.count)}`
  }
  return path
}

function curve(day: Day, x: Scale, y: (n: number) => number): string {
  const top = edge(day, x, y)
  const first = day.curve[0]
  return top && first ? `${top}V${ground}H${Math.max(0, x(first.at))}Z` : ''
}

function inWords(day: Day, isToday: boolean): string {
  const parts = [isToday ? `${day.label}, ${clock(day.now)}.` : `${day.label}.`]
  for (const b of day.held) parts.push(`${causes[b.cause]} from ${clock(b.from)} to ${clock(b.to)}.`)
  if (day.rounds.length > 0) parts.push(`Rounds at ${day.rounds.map((r) => clock(r)).join(', ')}.`)
  for (const u of day.up) parts.push(`${u.what} comes up at ${clock(u.at)}.`)
  for (const m of day.marks) parts.push(`${clock(m.at ?? '')}: ${said[m.kind]}, ${m.title}.`)
  if (day.sorted) parts.push(`Sorted out: ${day.sorted}.`)
  if (day.ruled) parts.push(`Acted on: ${day.ruled}.`)
  const last = day.expected.at(-1)
  if (last) parts.push(`About ${Math.round(last.count)} letters expected in the inbox at ${clock(last.at)}.`)
  return parts.join(' ')
}
