import { Plus, X } from 'lucide-react'
import { useState } from 'react'
import type { CheckItem } from '../api/client'

/** The steps of a follow-up. */
export function Checklist({ items, onKeep }: { items: CheckItem[]; onKeep: (items: CheckItem[]) => void }) {
  const [typed, setTyped] = useState('')
  const put = (i: number, part: Partial<CheckItem>) => onKeep(items.map((it, j) => (j === i ? { ...it, ...part } : it)))
  return (
    <fieldset className="pb-2">
      <legend className="text-[13px] text-ink-2">Checklist</legend>
      <ul>
        {items.map((it, i) => (
          <li key={`${it.text}${i}`} className="flex items-center gap-2 py-0.5">
            <input
              type="checkbox"
              aria-label={it.text}
              className="size-4 accent-[var(--kelp)]"
              checked={it.done ?? false}
              onChange={(e) => put(i, { done: e.target.checked })}
            />
            <span className={`min-w-0 flex-1 ${it.done ? 'text-ink-3 line-through' : ''}`}>{it.text}</span>
            <button
              className="grid size-6 place-items-center text-ink-3 hover:text-buoy"
              aria-label={`Remove ${it.text}`}
              onClick={() => onKeep(items.filter((_, j) => j !== i))}
            >
              <X className="size-3.5" aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      <form
        className="flex gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (typed.trim()) onKeep([...items, { text: typed.trim() }])
          setTyped('')
        }}
      >
        <input
          aria-label="One more step"
          placeholder="One more step"
          className="field !py-1"
          maxLength={300}
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <button className="btn btn-tight" aria-label="Add the step">
          <Plus className="size-4" aria-hidden />
        </button>
      </form>
    </fieldset>
  )
}
