import { Sparkle } from 'lucide-react'
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
            className="flex w-full items-start gap-2 rounded-[10px] border border-line px-2.5 py-1.5 text-left hover:bg-tide-3"
            onClick={() => onTake(s)}
          >
            <Sparkle className="mt-0.5 size-4 shrink-0 text-tide" aria-hidden />
            <span className="min-w-0 flex-1">
              <span className="serif line-clamp-2 !text-[15px] !leading-snug whitespace-pre-line">{s.text}</span>
              <span className="block truncate text-[12.5px] text-ink-3">{s.from}</span>
            </span>
            <span className="key mt-0.5 shrink-0 max-md:hidden">Alt {i + 1}</span>
          </button>
        </li>
      ))}
    </ul>
  )
}
