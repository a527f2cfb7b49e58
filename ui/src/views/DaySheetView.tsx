import { useQueryClient } from '@tanstack/react-query'
import { useNavigate, useSearch } from '@tanstack/react-router'
import { ChevronLeft, ChevronRight, Download, Printer } from 'lucide-react'
import { useEffect } from 'react'
import { daysOf, useDaySheet, useDays } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { DayAccount } from '../sheet/DayAccount'
import { DaysAccount } from '../sheet/DaysAccount'
import { undo } from '../state/commands'
import { sheetOpens } from '../state/evening'
import { useKeys } from '../state/keys'

type Of = 'week' | 'month' | 'year'
interface Asked {
  of?: Of | undefined
  date?: string | undefined
}

const stretches: [Of | undefined, string][] = [
  [undefined, 'Day'],
  ['week', 'Week'],
  ['month', 'Month'],
  ['year', 'Year'],
]

/** The account of a day, or of more of them, on one page. */
export function DaySheetView() {
  const asked = useSearch({ strict: false }) as Asked
  return asked.of ? <ManyDays of={asked.of} date={asked.date ?? ''} /> : <OneDay date={asked.date ?? ''} />
}

function OneDay({ date }: { date: string }) {
  const opens = sheetOpens.use()
  const { data, isError, error, refetch } = useDaySheet(date)
  // A year takes a while the first time after a start: it is read while the day is.
  const client = useQueryClient()
  const there = data !== undefined
  useEffect(() => {
    if (there) void client.prefetchQuery(daysOf('year', ''))
  }, [client, there])
  return (
    <Page
      label={data?.label ?? ''}
      head={data?.head ?? ''}
      date={date}
      before={data?.before}
      after={data?.after}
      file={data && { href: `/api/day-sheet/file?date=${data.date}`, name: 'Markdown' }}
    >
      {isError && !data && <CouldNotRead what="The day sheet" error={error} again={() => void refetch()} />}
      {!data && !isError && <div aria-busy className="h-60 animate-pulse rounded-[14px] bg-shore-2" />}
      {data && !data.begun && <p className="py-6 text-ink-2">Nothing is known of this day.</p>}
      {data?.begun && <DayAccount sheet={data} />}
      {/* Not before the sheet is there: it would move away under the hand. */}
      {(data ?? isError) && (
        <label className="mt-6 flex items-center gap-2 text-[13px] text-ink-2 print:hidden">
          <input type="checkbox" checked={opens} onChange={(e) => sheetOpens.set(e.target.checked)} />
          Open by itself in the evening, on this device
        </label>
      )}
    </Page>
  )
}

function ManyDays({ of, date }: { of: Of; date: string }) {
  const { data, isError, error, refetch } = useDays(of, date)
  return (
    <Page
      label={data?.label ?? ''}
      head=""
      of={of}
      date={date}
      before={data?.before}
      after={data?.after}
      file={data && { href: `/api/days/file?of=${of}&date=${data.from}`, name: 'CSV' }}
    >
      {isError && !data && <CouldNotRead what="The account" error={error} again={() => void refetch()} />}
      {!data && !isError && <div aria-busy className="h-60 animate-pulse rounded-[14px] bg-shore-2" />}
      {data && <DaysAccount days={data} />}
    </Page>
  )
}

function Page(props: {
  label: string
  head: string
  of?: Of
  date: string
  before: string | undefined
  after: string | undefined
  file: { href: string; name: string } | undefined
  children: React.ReactNode
}) {
  const { of, before, after } = props
  const go = useNavigate()
  const to = (search: Asked) => void go({ to: '/day-sheet', search, replace: true })
  useKeys({
    undo: () => void undo(),
    dayBefore: () => before && to({ of, date: before }),
    dayAfter: () => after && to({ of, date: after }),
  })
  const what = of ?? 'day'
  return (
    <main className="relative min-h-0 flex-1 overflow-y-auto px-4 pb-6" aria-label="Day sheet">
      <article className="sheet mx-auto max-w-[74rem] rounded-[14px] bg-paper p-6 max-md:p-4 print:p-0">
        <header className="mb-4 flex flex-wrap items-center gap-x-4 gap-y-2">
          <h1 className="font-serif text-[28px] leading-tight">{props.label}</h1>
          <p className="min-w-0 flex-1 basis-60 text-[14px] text-ink-2">{props.head}</p>
          <div role="group" aria-label="How many days" className="flex rounded-lg border border-line print:hidden">
            {stretches.map(([s, name]) => (
              <button
                key={name}
                aria-pressed={s === of}
                className="min-h-7 rounded-lg px-2 text-[13px] text-ink-2 hover:bg-tide-3 aria-pressed:bg-tide-2 aria-pressed:font-semibold aria-pressed:text-tide"
                onClick={() => to({ of: s, date: props.date || undefined })}
              >
                {name}
              </button>
            ))}
          </div>
          <div className="flex gap-1 print:hidden">
            <Step label={`The ${what} before`} to={before && (() => to({ of, date: before }))}>
              <ChevronLeft className="size-4" aria-hidden />
            </Step>
            <Step label={`The ${what} after`} to={after && (() => to({ of, date: after }))}>
              <ChevronRight className="size-4" aria-hidden />
            </Step>
            <button className="btn btn-small" onClick={() => print()} title="Print on one page">
              <Printer className="size-4" aria-hidden /> <span className="sr-only">Print</span>
            </button>
            {props.file && (
              <a className="btn btn-small" href={props.file.href} download title={`Save as ${props.file.name}`}>
                <Download className="size-4" aria-hidden /> {props.file.name}
              </a>
            )}
          </div>
        </header>
        {props.children}
      </article>
    </main>
  )
}

function Step(props: { label: string; to: false | '' | undefined | (() => void); children: React.ReactNode }) {
  return (
    <button
      className="btn btn-small"
      aria-label={props.label}
      title={props.label}
      disabled={!props.to}
      onClick={() => props.to && props.to()}
    >
      {props.children}
    </button>
  )
}
