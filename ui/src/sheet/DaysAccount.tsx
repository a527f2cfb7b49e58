import { Link } from '@tanstack/react-router'
import type { Days, DaysPart } from '../api/client'
import { useSince } from '../api/queries'
import { Columns } from './Columns'

/** The account of a week, a month or a year: drawn, and as a table. */
export function DaysAccount({ days }: { days: Days }) {
  const { data: since } = useSince()
  return (
    <>
      {since?.says && (
        <p className="mb-4 text-[15px]">
          {since.says}{' '}
          <span className="text-[13px] text-ink-3">
            {since.first} beside {since.last}
          </span>
        </p>
      )}
      <div className="grid gap-x-8 gap-y-5 md:grid-cols-2 print:grid-cols-2">
        <Columns
          title="Came and decided"
          parts={days.parts}
          of={[
            { says: 'came', tone: 'fill-tide', swatch: 'bg-tide', value: (p) => p.came },
            { says: 'decided', tone: 'fill-kelp', swatch: 'bg-kelp', value: (p) => p.decided },
          ]}
        />
        <Columns
          title="Undecided at night"
          parts={days.parts}
          of={[{ says: 'left', tone: 'fill-lamp', swatch: 'bg-lamp', value: (p) => p.night }]}
        />
      </div>
      {days.beside.length > 0 && (
        <section aria-label="Against as many whole days before" className="mt-5 break-inside-avoid">
          <h2 className="text-[15px] font-semibold">Against as many whole days before</h2>
          <dl className="mt-1 flex flex-wrap gap-x-6 gap-y-1 text-[14px]">
            {days.beside.map((l) => (
              <div key={l.says} className="flex gap-2">
                <dt className="text-ink-2">{l.says}</dt>
                <dd className="font-semibold whitespace-nowrap">{l.value}</dd>
              </div>
            ))}
          </dl>
        </section>
      )}
      <Table days={days} />
    </>
  )
}

const columns: [string, (p: DaysPart) => string | number][] = [
  ['Came', (p) => p.came],
  ['Decided', (p) => p.decided],
  ['At night', (p) => p.night],
  ['Low waters', (p) => p.zeros],
  ['Put off', (p) => p.putOffs],
  ['More than twice', (p) => p.often],
  ['You answer in', (p) => p.mineSays],
  ['They answer in', (p) => p.theirsSays],
  ['Interruptions', (p) => p.interrupted],
  ['Kept out', (p) => p.avoided],
]

function Table({ days }: { days: Days }) {
  const cell = 'border-b border-line px-2 py-1 text-right whitespace-nowrap'
  const row = (p: DaysPart, head: React.ReactNode) => (
    <tr key={p.from + p.label} className={p.future ? 'text-ink-3' : ''}>
      <th scope="row" className={`${cell} !text-left font-medium`}>
        {head}
      </th>
      {columns.map(([name, value]) => (
        <td key={name} className={cell}>
          {p.future ? '' : value(p)}
        </td>
      ))}
    </tr>
  )
  return (
    <div className="mt-5 overflow-x-auto" role="region" aria-label={`${days.label} as a table`} tabIndex={0}>
      <table className="w-full border-collapse text-[13px]">
        <thead>
          <tr>
            <th scope="col" className={`${cell} !text-left font-semibold`}>
              {days.of === 'year' ? 'Month' : 'Day'}
            </th>
            {columns.map(([name]) => (
              <th scope="col" key={name} className={`${cell} font-semibold`}>
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {days.parts.map((p) =>
            row(
              p,
              p.future ? (
                p.label
              ) : (
                <Link
                  to="/day-sheet"
                  search={{ date: p.from, of: days.of === 'year' ? 'month' : undefined }}
                  className="hover:underline"
                >
                  {p.label}
                </Link>
              ),
            ),
          )}
        </tbody>
        <tfoot className="font-semibold">{row(days.all, 'All')}</tfoot>
      </table>
    </div>
  )
}
