import type { FollowUpFields } from '../state/commands'
import { Priority } from '../kit/Marks'
import { priorities } from '../state/priorities'

type P = NonNullable<FollowUpFields['priority']>

/** One of the four priorities: bars and words side by side. */
export function PriorityChoice(props: { value: P; onChange: (p: P) => void }) {
  return (
    <fieldset className="flex flex-wrap items-center gap-1">
      <legend className="sr-only">Priority</legend>
      {priorities.map((p) => (
        <label
          key={p}
          className="flex min-h-7 cursor-pointer items-center gap-1.5 rounded-lg px-2 hover:bg-shore has-checked:bg-tide-2 has-checked:font-semibold has-focus-visible:outline-2 has-focus-visible:outline-tide"
        >
          <input
            type="radio"
            name="priority"
            className="sr-only"
            checked={props.value === p}
            onChange={() => props.onChange(p)}
          />
          <span aria-hidden className="flex">
            <Priority of={p} />
          </span>
          {p}
        </label>
      ))}
    </fieldset>
  )
}
