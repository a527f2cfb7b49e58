import type { FollowUpFields } from '../state/commands'
import { Priority } from './Marks'

type P = NonNullable<FollowUpFields['priority']>
export const priorities: readonly P[] = ['urgent', 'high', 'normal', 'low']

/** One of the four priorities. */
export function PriorityChoice(props: { value: P; onChange: (p: P) => void }) {
  return (
    <fieldset className="flex flex-wrap items-center gap-x-3 gap-y-1">
      <legend className="sr-only">Priority</legend>
      {priorities.map((p) => (
        <label key={p} className="flex items-center gap-1.5">
          <input
            type="radio"
            name="priority"
            className="accent-[var(--tide)]"
            checked={props.value === p}
            onChange={() => props.onChange(p)}
          />
          <span aria-hidden>
            <Priority of={p} />
          </span>
          {p}
        </label>
      ))}
    </fieldset>
  )
}
