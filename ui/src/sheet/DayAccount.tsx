import { Link, useNavigate } from '@tanstack/react-router'
import type { DaySheet } from '../api/client'
import { useRules } from '../api/queries'
import { Proposed } from '../rules/Proposed'
import { Parts } from './Bar'
import { DayCurve } from './DayCurve'

const line = 'flex items-baseline gap-3 border-b border-line py-1.5 text-[14px]'

/** The account of one day. */
export function DayAccount({ sheet }: { sheet: DaySheet }) {
  return (
    <>
      <div className="grid items-start gap-x-8 gap-y-4 lg:grid-cols-[1fr_18rem] print:grid-cols-[1fr_14rem]">
        <DayCurve sheet={sheet} />
        <section aria-label="Answer times" className="break-inside-avoid">
          <h2 className="text-[15px] font-semibold">Answer times</h2>
          <dl>
            {sheet.lines.map((l) => (
              <div key={l.says} className={line}>
                <dt className="min-w-0 flex-1">{l.says}</dt>
                <dd className="text-ink-2">{l.value}</dd>
              </div>
            ))}
          </dl>
        </section>
      </div>
      <div className="mt-4 grid gap-x-8 gap-y-4 md:grid-cols-2 print:grid-cols-2">
        <div>
          <Parts name="Came" of={sheet.came} />
          {sheet.sorts && <p className="mt-1 text-[13px] text-ink-2">In the Shallows: {sheet.sorts}.</p>}
        </div>
        <Parts name="Decided" of={sheet.decided} />
      </div>
      <div className="mt-6 grid items-start gap-x-8 gap-y-4 md:grid-cols-3 print:grid-cols-3">
        <Ran sheet={sheet} />
        <Waits sheet={sheet} />
        <Tomorrow sheet={sheet} />
      </div>
      {sheet.today && <Proposal />}
    </>
  )
}

function Ran({ sheet }: { sheet: DaySheet }) {
  return (
    <section aria-label="Ran by itself" className="min-w-0 break-inside-avoid">
      <h2 className="text-[15px] font-semibold">
        Ran by itself <span className="font-normal text-ink-3">{sheet.ran.reduce((n, r) => n + r.n, 0)}</span>
      </h2>
      {sheet.ran.length === 0 && <p className="mt-1 text-[13px] text-ink-3">Nothing.</p>}
      <ul>
        {sheet.ran.map((r) => (
          <li key={r.says} className={line}>
            <span className="min-w-0 flex-1">{r.says}</span>
            <span className="text-ink-2">{r.n}</span>
            {r.rule && (
              <Link
                to="/rules"
                className="text-[13px] text-tide hover:underline print:hidden"
                aria-label={`${r.says}: what it did`}
              >
                look
              </Link>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

function Waits({ sheet }: { sheet: DaySheet }) {
  return (
    <section aria-label="Waits longest on you" className="min-w-0 break-inside-avoid">
      <h2 className="text-[15px] font-semibold">
        Waits longest on you <span className="font-normal text-ink-3">{sheet.waits.length}</span>
      </h2>
      {sheet.waits.length === 0 && <p className="mt-1 text-[13px] text-ink-3">Nobody waits for an answer.</p>}
      <ul>
        {sheet.waits.map((w) => (
          <li key={w.conversation} className={line}>
            <Link
              to="/letter/$id"
              params={{ id: String(w.conversation) }}
              className="min-w-0 flex-1 truncate hover:underline"
            >
              <b className="font-semibold">{w.who}</b> {w.title}
            </Link>
            <span className="shrink-0 text-ink-2">{w.long}</span>
          </li>
        ))}
      </ul>
    </section>
  )
}

function Tomorrow({ sheet }: { sheet: DaySheet }) {
  const t = sheet.tomorrow
  if (!t) return null
  return (
    <section aria-label={t.label} className="min-w-0 break-inside-avoid">
      <h2 className="text-[15px] font-semibold">
        {t.label} <span className="font-normal text-ink-3">{t.free}</span>
      </h2>
      <dl>
        {t.lines.map((l) => (
          <div key={l.says} className={line}>
            <dt className="min-w-0 flex-1">{l.says}</dt>
            <dd className="text-ink-2">{l.value}</dd>
          </div>
        ))}
      </dl>
      <p className={`mt-1.5 text-[14px] ${t.over ? 'text-lamp' : 'text-ink-2'}`}>{t.fits}</p>
    </section>
  )
}

function Proposal() {
  const go = useNavigate()
  const { data } = useRules()
  if (!data?.proposed) return null
  return (
    <div className="mt-6 print:hidden">
      <Proposed of={data.proposed} onLook={() => void go({ to: '/rules' })} />
    </div>
  )
}
