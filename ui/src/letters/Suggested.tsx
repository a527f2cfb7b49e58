import { Reply } from 'lucide-react'
import type { Suggestion } from '../api/client'

/** Short answers that are proposed, each with where it comes from. A key puts one into the
 * text; nothing is sent by itself. */
export function Suggested({ all, onTake }: { all: Suggestion[]; onTake: (s: Suggestion) => void }) {
  if (all.length === 0) return null
  return (
    <ul aria-label="Proposed answers" className="flex flex-col gap-1 pt-2">
      {all.map((s, i) => (
        <li key={s.text}>
          <button
            type="button"
            data-suggestion
            className="flex min-h-9 w-full items-center gap-2 rounded-[10px] border border-line px-2.5 py-1 text-left hover:bg-tide-3"
            title={`${s.text}\n\n${s.from}`}
            onClick={() => onTake(s)}
          >
            <Reply className="size-4 shrink-0 text-tide" aria-hidden />
            <span className="min-w-0 flex-1 max-md:flex max-md:flex-col">
              <span className="serif block truncate !text-[15px] !leading-snug">{s.text}</span>
              <span className="block truncate text-[12.5px] text-ink-3 md:hidden">{s.from}</span>
            </span>
            <span className="max-w-[42%] shrink-0 truncate text-[12.5px] text-ink-3 max-md:hidden">{s.from}</span>
            <span className="key shrink-0 max-md:hidden">Alt {i + 1}</span>
          </button>
        </li>
      ))}
    </ul>
  )
}
