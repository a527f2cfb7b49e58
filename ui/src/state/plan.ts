import { addDays, format } from 'date-fns'
import { api, take, type DayPlan, type Plan } from '../api/client'
import { own } from './mine'

export type Kind = 'rounds' | 'quiet' | 'closed'
/** One thing that stands in the week: a round where from and to are the same. */
export interface Item {
  day: number
  kind: Kind
  from: number
  to: number
}

export const whole = 24 * 60
export const weekdays = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday']
export const named: Record<Kind, string> = { rounds: 'round', quiet: 'quiet', closed: 'closed' }

/** The plan that is being edited, by account; it outlives the page. */
export const drafts = own<Record<number, Plan>>('plan-drafts', {}, true)

export const clockOf = (minute: number) =>
  `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`

export const itemWords = (i: Item) =>
  i.kind === 'rounds'
    ? `${weekdays[i.day]}, round at ${clockOf(i.from)}`
    : `${weekdays[i.day]}, ${named[i.kind]} ${clockOf(i.from)} to ${clockOf(i.to)}`

export const keyOfItem = (i: Item) => `${i.day}-${i.kind}-${i.from}`

/** The element that stands for it in the week grid. */
export const itemId = (i: Item) => `plan-${keyOfItem(i)}`

const emptyDay: DayPlan = { rounds: [], quiet: [], closed: [] }

export function itemsOf(plan: Plan): Item[] {
  return plan.days.flatMap((d, day) => [
    ...d.quiet.map((s) => ({ day, kind: 'quiet' as const, ...s })),
    ...d.closed.map((s) => ({ day, kind: 'closed' as const, ...s })),
    ...d.rounds.map((r) => ({ day, kind: 'rounds' as const, from: r, to: r })),
  ])
}

/** What stands after a place in the week, or last before it. */
export function nextTo(plan: Plan, place: Item): Item | undefined {
  const order = (i: Item) => i.day * whole + i.from
  const items = itemsOf(plan).sort((a, b) => order(a) - order(b))
  return items.find((i) => order(i) >= order(place)) ?? items.at(-1)
}

const withDay = (plan: Plan, day: number, d: DayPlan): Plan => ({
  ...plan,
  days: plan.days.map((was, i) => (i === day ? d : was)),
})

export function without(plan: Plan, item: Item): Plan {
  const d = plan.days[item.day] ?? emptyDay
  if (item.kind === 'rounds') return withDay(plan, item.day, { ...d, rounds: d.rounds.filter((r) => r !== item.from) })
  return withDay(plan, item.day, { ...d, [item.kind]: d[item.kind].filter((s) => s.from !== item.from) })
}

/** Adds something; a stretch that meets others of its kind becomes one with
 * them, so that dragging never makes an overlap. */
export function withItem(plan: Plan, item: Item): { plan: Plan; item: Item } {
  const d = plan.days[item.day] ?? emptyDay
  if (item.kind === 'rounds') {
    const rounds = [...new Set([...d.rounds, item.from])].sort((a, b) => a - b)
    return { plan: withDay(plan, item.day, { ...d, rounds }), item }
  }
  let { from, to } = item
  const apart = d[item.kind].filter((s) => {
    if (s.to < from || s.from > to) return true
    from = Math.min(from, s.from)
    to = Math.max(to, s.to)
    return false
  })
  const list = [...apart, { from, to }].sort((a, b) => a.from - b.from)
  return { plan: withDay(plan, item.day, { ...d, [item.kind]: list }), item: { ...item, from, to } }
}

/** Moves within the day; a round is never at its very end. */
export function moved(item: Item, by: number): Item {
  const last = item.kind === 'rounds' ? whole - 1 : whole
  const shift = Math.max(-item.from, Math.min(by, last - item.to))
  return { ...item, from: item.from + shift, to: item.to + shift }
}

export function resized(item: Item, by: number): Item {
  if (item.kind === 'rounds') return moved(item, by)
  return { ...item, to: Math.max(item.from + 5, Math.min(whole, item.to + by)) }
}

export function copied(plan: Plan, from: number, to: number[]): Plan {
  const d = plan.days[from] ?? emptyDay
  return { ...plan, days: plan.days.map((was, i) => (to.includes(i) ? structuredClone(d) : was)) }
}

export const cleared = (plan: Plan, day: number) => withDay(plan, day, structuredClone(emptyDay))

/** The dates of the week that holds a day, by weekday: 2006-01-02. */
export function weekOf(day: Date, weekStart: number): string[] {
  const first = addDays(day, -((day.getDay() - weekStart + 7) % 7))
  return Array.from({ length: 7 }, (_, d) => format(addDays(first, (d - weekStart + 7) % 7), 'yyyy-MM-dd'))
}

/** A day on which nothing is let in. */
export const off: DayPlan = { rounds: [], quiet: [{ from: 0, to: whole }], closed: [] }

/** Reads a plan from text, or throws what is wrong with it. */
export async function readPlan(account: number, text: string): Promise<Plan> {
  return (await take(api.POST('/api/plan/preview', { body: { account, text } }))).plan
}

type Exception = Plan['exceptions'][number]

export const withoutException = (plan: Plan, date: string): Plan => ({
  ...plan,
  exceptions: plan.exceptions.filter((x) => x.date !== date),
})

/** Adds the plan of a date; another of the same date gives way. */
export const withException = (plan: Plan, e: Exception): Plan => ({
  ...plan,
  exceptions: [...withoutException(plan, e.date).exceptions, e].sort((a, b) => a.date.localeCompare(b.date)),
})

/** What a day's plan is, in a few words. */
export function dayWords(d: DayPlan): string {
  const spans = (list: DayPlan['quiet']) => list.map((s) => `${clockOf(s.from)} to ${clockOf(s.to)}`).join(', ')
  const parts = [
    d.rounds.map(clockOf).join(', '),
    d.closed.length > 0 && `closed ${spans(d.closed)}`,
    d.quiet.length > 0 &&
      (d.quiet[0]?.from === 0 && d.quiet[0].to === whole ? 'quiet all day' : `quiet ${spans(d.quiet)}`),
  ].filter(Boolean)
  return parts.join('; ') || 'nothing planned'
}
