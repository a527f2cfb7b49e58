import { Circle, CircleCheck } from 'lucide-react'
import { createContext } from 'react'
import type { Ask } from '../api/client'
import { composing, type } from '../state/writing'

/** The asks of the letter that is being answered, for the letter itself to show. */
export const AskMarks = createContext<Ask[]>([])

/** What the letter asks: each ask ticks itself off as the answer covers it, or is ticked by
 * hand. */
export function Asks({ asks }: { asks: Ask[] }) {
  if (asks.length === 0) return null
  const tick = (text: string) => {
    const was = composing.get()?.writing.covered ?? []
    type({ covered: was.includes(text) ? was.filter((c) => c !== text) : [...was, text] })
  }
  const byHand = composing.get()?.writing.covered ?? []
  return (
    <ul aria-label="What the letter asks" className="max-h-40 shrink-0 overflow-y-auto bg-tide-3 px-6 py-2 max-md:px-4">
      {asks.map((a) => (
        <li key={a.text} className="flex items-center gap-2 py-0.5 text-[14px]">
          <button
            type="button"
            role="checkbox"
            aria-checked={a.covered}
            aria-label={a.text}
            title={a.covered ? 'Answered' : 'Tick it off'}
            disabled={a.covered && !byHand.includes(a.text)}
            className="grid size-6 shrink-0 place-items-center rounded-full hover:bg-paper"
            onClick={() => tick(a.text)}
          >
            {a.covered ? (
              <CircleCheck className="size-[18px] text-kelp" aria-hidden />
            ) : (
              <Circle className="size-[18px] text-lamp" aria-hidden />
            )}
          </button>
          <span className={`min-w-0 flex-1 truncate ${a.covered ? 'text-ink-3 line-through' : 'font-semibold'}`}>
            {a.text}
          </span>
          <span className={`chip shrink-0 ${a.covered ? '!bg-kelp-2 !text-kelp' : ''}`}>
            {byHand.includes(a.text)
              ? 'ticked by you'
              : !a.covered
                ? 'not yet'
                : a.line
                  ? `answered in line ${a.line}`
                  : 'answered'}
          </span>
        </li>
      ))}
    </ul>
  )
}
