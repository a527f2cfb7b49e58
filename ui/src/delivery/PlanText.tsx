import { useState } from 'react'
import { errorText, type Plan } from '../api/client'
import { usePlanPreview } from '../api/queries'
import { readPlan } from '../state/plan'
import { PlanExceptions } from './PlanExceptions'

/** The plan as text, which can be edited as well; and the days that are not as
 * their weekdays. */
export function PlanText({ plan, account, onChange }: { plan: Plan; account: number; onChange: (p: Plan) => void }) {
  const { data } = usePlanPreview(account, plan)
  const [typed, setTyped] = useState<string>()
  const [trouble, setTrouble] = useState('')
  const read = async () => {
    if (typed === undefined) return
    try {
      const read = await readPlan(account, typed)
      setTrouble('')
      setTyped(undefined)
      onChange(read)
    } catch (e) {
      setTrouble(errorText(e, 'The text could not be read.'))
    }
  }
  return (
    <details className="shrink-0 pt-2 text-[13px]">
      <summary className="cursor-pointer text-ink-2">
        As text, and exceptions{' '}
        {plan.exceptions.length > 0 && (
          <span className="text-ink-3">
            ({plan.exceptions.length === 1 ? '1 day is one' : `${plan.exceptions.length} days are`})
          </span>
        )}
      </summary>
      <div className="grid max-h-[40vh] gap-3 overflow-y-auto p-0.5 pt-2 md:grid-cols-[1fr_320px]">
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
        <PlanExceptions plan={plan} account={account} onChange={onChange} />
      </div>
    </details>
  )
}
