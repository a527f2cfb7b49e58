import { useState } from 'react'
import { api, take, type Plan } from '../api/client'
import { usePlanPreview } from '../api/queries'

/** The plan as text, which can be edited as well; and the days that are not as
 * their weekdays. */
export function PlanText({ plan, account, onChange }: { plan: Plan; account: number; onChange: (p: Plan) => void }) {
  const { data } = usePlanPreview(account, plan)
  const [typed, setTyped] = useState<string>()
  const [trouble, setTrouble] = useState('')
  const [date, setDate] = useState('')
  const [name, setName] = useState('')
  const read = async () => {
    if (typed === undefined) return
    try {
      const read = await take(api.POST('/api/plan/preview', { body: { account, text: typed } }))
      setTrouble('')
      setTyped(undefined)
      onChange(read.plan)
    } catch (e) {
      setTrouble(e instanceof Error ? e.message : 'The text could not be read.')
    }
  }
  const off = () => {
    const quiet = { rounds: [], quiet: [{ from: 0, to: 1440 }], closed: [] }
    const rest = plan.exceptions.filter((e) => e.date !== date)
    onChange({
      ...plan,
      exceptions: [...rest, { date, name, ...quiet }].sort((a, b) => a.date.localeCompare(b.date)),
    })
    setDate('')
    setName('')
  }
  return (
    <details className="shrink-0 pt-2 text-[13px]">
      <summary className="cursor-pointer text-ink-2">
        As text, and days off{' '}
        {plan.exceptions.length > 0 && (
          <span className="text-ink-3">({plan.exceptions.length} days are exceptions)</span>
        )}
      </summary>
      <div className="grid gap-3 pt-2 md:grid-cols-[1fr_260px]">
        <form
          onSubmit={(e) => {
            e.preventDefault()
            void read()
          }}
        >
          <textarea
            aria-label="The plan as text"
            aria-invalid={trouble !== ''}
            spellCheck={false}
            className="field min-h-24 font-mono !text-[13px]"
            placeholder="mon-thu 8:30, 13:00, 16:30; closed 9-11:30; quiet 17:30-8:30"
            value={typed ?? data?.text ?? ''}
            onChange={(e) => setTyped(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
                e.preventDefault()
                void read()
              }
            }}
          />
          {trouble && (
            <p role="alert" className="text-buoy">
              {trouble}
            </p>
          )}
          {typed !== undefined && (
            <div className="flex gap-2 pt-1">
              <button className="btn">
                Read it <span className="key">Ctrl Enter</span>
              </button>
              <button
                type="button"
                className="btn"
                onClick={() => {
                  setTyped(undefined)
                  setTrouble('')
                }}
              >
                Leave it
              </button>
            </div>
          )}
        </form>
        <div>
          <p className="pb-1 font-medium">Days that are exceptions</p>
          <ul>
            {plan.exceptions.map((e) => (
              <li key={e.date} className="flex items-center gap-2 py-0.5">
                <span className="flex-1">
                  {e.date} {e.name}
                </span>
                <button
                  className="btn !min-h-6 !px-2"
                  aria-label={`Remove the exception ${e.date}`}
                  onClick={() => onChange({ ...plan, exceptions: plan.exceptions.filter((x) => x.date !== e.date) })}
                >
                  Remove
                </button>
              </li>
            ))}
          </ul>
          <div className="flex flex-wrap gap-1.5 pt-1">
            <input
              type="date"
              aria-label="Day off"
              className="field !w-auto !py-1"
              value={date}
              onChange={(e) => setDate(e.target.value)}
            />
            <input
              aria-label="What it is"
              placeholder="Holiday"
              className="field !w-28 !py-1"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <button className="btn" disabled={!date} onClick={off}>
              Add a day off
            </button>
          </div>
        </div>
      </div>
    </details>
  )
}
