import { useState } from 'react'
import { api, take, type Plan } from '../api/client'
import { dayWords, off, weekdays, withException } from '../state/plan'
import { longDate } from '../state/time'

/** The dates that are not as their weekdays: days off, days like another one,
 * or with times of their own. */
export function PlanExceptions(props: { plan: Plan; account: number; onChange: (p: Plan) => void }) {
  const { plan, account, onChange } = props
  const [date, setDate] = useState('')
  const [name, setName] = useState('')
  const [like, setLike] = useState('off')
  const [own, setOwn] = useState('')
  const [trouble, setTrouble] = useState('')
  const read = async () => {
    if (like === 'off') return off
    if (like !== 'own') return plan.days[Number(like)] ?? off
    const read = await take(api.POST('/api/plan/preview', { body: { account, text: `${date} ${own}` } }))
    return read.plan.exceptions[0] ?? off
  }
  const add = async () => {
    try {
      const { rounds, quiet, closed } = await read()
      onChange(withException(plan, { date, name, rounds, quiet, closed }))
      setTrouble('')
      setDate('')
      setName('')
      setOwn('')
    } catch (e) {
      setTrouble(e instanceof Error ? e.message : 'The times could not be read.')
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
              className="btn !min-h-6 !px-2"
              aria-label={`Remove the exception of ${longDate(e.date)}`}
              onClick={() => onChange({ ...plan, exceptions: plan.exceptions.filter((x) => x.date !== e.date) })}
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
          void add()
        }}
      >
        <input
          type="date"
          required
          aria-label="Date of the exception"
          className="field !w-auto !py-1"
          value={date}
          onChange={(e) => setDate(e.target.value)}
        />
        <input
          aria-label="What it is"
          placeholder="Holiday"
          maxLength={60}
          className="field !w-28 !py-1"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
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
            aria-label="Its own times"
            aria-invalid={trouble !== ''}
            required
            placeholder="10:00, 15:00; closed 11-13"
            className="field !w-60 !py-1 font-mono !text-[13px]"
            value={own}
            onChange={(e) => setOwn(e.target.value)}
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
