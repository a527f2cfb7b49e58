import { CalendarClock } from 'lucide-react'
import type { KeyboardEvent } from 'react'

interface Found {
  phrase: string
  words: string
  label: string
}

/** The date that a key in a form takes: Alt with its number. A field for a time
 * has such keys of its own. */
export function foundBy(e: KeyboardEvent, dates: readonly Found[] | undefined): Found | undefined {
  if (!e.altKey || e.defaultPrevented || !/^Digit[1-9]$/.test(e.code)) return
  const found = dates?.[Number(e.code.slice(5)) - 1]
  if (found || !dates) e.preventDefault() // not yet read: it is no sign to be typed instead
  return found
}

/** The dates that a letter names, each a key away. */
export function FoundDates(props: {
  dates: readonly Found[] | undefined
  /** What becomes of the one that is taken, as in “due”. */
  as?: string
  chosen: string
  onTake: (phrase: string) => void
}) {
  if (!props.dates || props.dates.length === 0) return null
  return (
    <div className="flex flex-wrap items-center gap-2 text-[13px] text-ink-2">
      Found in the letter:
      {props.dates.map((d, i) => (
        <button
          key={d.phrase}
          type="button"
          className="btn btn-small"
          title={d.label}
          aria-pressed={props.chosen === d.phrase}
          onClick={() => props.onTake(d.phrase)}
        >
          <CalendarClock className="size-3.5 text-lamp" aria-hidden />
          {props.as} {d.words} {i < 9 && <span className="key">Alt {i + 1}</span>}
        </button>
      ))}
    </div>
  )
}
