import { useState } from 'react'
import { errorText, type Plan } from '../api/client'
import { dayWords, off, readPlan, weekdays, withException, withoutException } from '../state/plan'
import { longDate } from '../state/time'

/** The dates that are not as their weekdays: days off, days like another one,
 * or with times of their own. */
export function PlanExceptions(props: { plan: Plan; account: number; onChange: (p: Plan) => void }) {
  const { plan, account, onChange } = props
  const [like, setLike] = useState('off')
  const [trouble, setTrouble] = useState('')
  const add = async (form: HTMLFormElement) => {
    const [date = '', name = '', own = ''] = ['date', 'name', 'own'].map((field) =>
      String(new FormData(form).get(field) ?? ''),
    )
    try {
      const day =
        like === 'off'
          ? off
          : like === 'own'
            ? ((await readPlan(account, `${date} ${own}`)).exceptions[0] ?? off)
            : (plan.days[Number(like)] ?? off)
      const { rounds, quiet, closed } = day
      onChange(withException(plan, { date, name, rounds, quiet, closed }))
      setTrouble('')
      form.reset()
      setLike('off')
      form.querySelector('input')?.focus() // for the next one
    } catch (e) {
      setTrouble(errorText(e, 'The times could not be read.'))
    }
  }
  return (
    <section aria-label="Days that are exceptions">
      <p className="pb-1 font-medium">Days that are exceptions</p>
      <ul>
        {plan.exceptions.map((e) => (
          <li key={e.date} className="flex items-start gap-2 border-t border-line py-1 first:border-0">
            <span className="flex-1">
              {longDate(e.date)}
              {e.name && `, ${e.name}`}
              <span className="block text-ink-3">{dayWords(e)}</span>
            </span>
            <button
              className="btn !min-h-6 btn-tight"
              aria-label={`Remove the exception of ${longDate(e.date)}`}
              onClick={() => onChange(withoutException(plan, e.date))}
            >
              Remove
            </button>
          </li>
        ))}
      </ul>
      <form
        className="flex flex-wrap gap-1.5 pt-1"
        onSubmit={(e) => {
          e.preventDefault()
          void add(e.currentTarget)
        }}
      >
        <input type="date" name="date" required aria-label="Date of the exception" className="field !w-auto !py-1" />
        <input name="name" aria-label="What it is" placeholder="Holiday" maxLength={60} className="field !w-28 !py-1" />
        <select
          aria-label="How that day is"
          className="field !w-auto !py-1"
          value={like}
          onChange={(e) => setLike(e.target.value)}
        >
          <option value="off">a day off</option>
          {weekdays.map((w, i) => (
            <option key={w} value={i}>
              like a {w}
            </option>
          ))}
          <option value="own">with its own times</option>
        </select>
        {like === 'own' && (
          <input
            name="own"
            aria-label="Its own times"
            aria-invalid={trouble !== ''}
            required
            placeholder="10:00, 15:00; closed 11-13"
            className="field !w-60 !py-1 font-mono !text-[13px]"
          />
        )}
        <button className="btn">Add the day</button>
      </form>
      {trouble && (
        <p role="alert" className="text-buoy">
          {trouble}
        </p>
      )}
    </section>
  )
}
