import { ChevronDown } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import type { Plan } from '../api/client'
import {
  cleared,
  copied,
  dayWords,
  off,
  weekdays,
  whole,
  withException,
  withoutException,
  type Item,
} from '../state/plan'
import { dayAndMonth } from '../state/time'

const entry = 'cursor-pointer rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2'

/** The head of a day: it adds, copies, clears, and makes its date an exception. */
export function DayMenu(props: {
  day: number
  today: number
  date: string
  plan: Plan
  onChange: (plan: Plan) => void
  onAdd: (was: undefined, now: Item) => void
}) {
  const { day, plan } = props
  const workdays = [1, 2, 3, 4, 5].filter((d) => d !== day)
  const all = [0, 1, 2, 3, 4, 5, 6].filter((d) => d !== day)
  const date = dayAndMonth(props.date)
  const number = Number(props.date.slice(-2))
  const exception = plan.exceptions.find((e) => e.date === props.date)
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger
        className={`flex min-w-0 items-center gap-1 rounded-lg px-1 py-1 text-[14px] hover:bg-paper ${day === props.today ? 'font-bold' : 'font-medium text-ink-2'}`}
        aria-label={`${weekdays[day]?.slice(0, 3)} ${number}, ${weekdays[day]}: add, copy or clear${exception ? `. This one is an exception: ${exception.name} ${dayWords(exception)}` : ''}`}
      >
        <span className={exception ? 'shrink-0' : 'truncate'}>
          {weekdays[day]?.slice(0, 3)} <span className="max-md:hidden">{number}</span>
        </span>
        {exception && (
          <span className="min-w-0 truncate text-[12px] font-medium text-lamp" title={dayWords(exception)}>
            <span className="max-md:hidden">{exception.name || 'exception'}</span>
            <span className="md:hidden">*</span>
          </span>
        )}
        <ChevronDown className="size-3.5 shrink-0 text-ink-3 max-md:hidden" aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className="z-50 min-w-48 rounded-[12px] border border-line bg-paper p-1.5 shadow-float"
          onCloseAutoFocus={(e) => document.activeElement !== document.body && e.preventDefault()} // what was added has it
        >
          <DropdownMenu.Item
            className={entry}
            onSelect={() => props.onAdd(undefined, { day, kind: 'rounds', from: 720, to: 720 })}
          >
            Add a round
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={entry}
            onSelect={() => props.onAdd(undefined, { day, kind: 'closed', from: 540, to: 660 })}
          >
            Add a closed block
          </DropdownMenu.Item>
          <DropdownMenu.Item
            className={entry}
            onSelect={() => props.onAdd(undefined, { day, kind: 'quiet', from: 1080, to: whole })}
          >
            Add quiet hours
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          <DropdownMenu.Item className={entry} onSelect={() => props.onChange(copied(plan, day, [(day + 1) % 7]))}>
            Copy to {weekdays[(day + 1) % 7]}
          </DropdownMenu.Item>
          <DropdownMenu.Item className={entry} onSelect={() => props.onChange(copied(plan, day, workdays))}>
            Copy to Monday to Friday
          </DropdownMenu.Item>
          <DropdownMenu.Item className={entry} onSelect={() => props.onChange(copied(plan, day, all))}>
            Copy to every day
          </DropdownMenu.Item>
          <DropdownMenu.Item className={entry} onSelect={() => props.onChange(cleared(plan, day))}>
            Clear the day
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          {exception ? (
            <DropdownMenu.Item className={entry} onSelect={() => props.onChange(withoutException(plan, props.date))}>
              Make {date} a {weekdays[day]} again
            </DropdownMenu.Item>
          ) : (
            <DropdownMenu.Item
              className={entry}
              onSelect={() => props.onChange(withException(plan, { date: props.date, name: 'day off', ...off }))}
            >
              Take {date} off
            </DropdownMenu.Item>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
