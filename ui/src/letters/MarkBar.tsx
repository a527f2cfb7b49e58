import { Bold, Code, Italic, Link, List, ListOrdered, Quote, Table } from 'lucide-react'
import type { Mark } from '../state/markdown'

const marks: [Mark, string, typeof Bold][] = [
  ['strong', 'Strong (Ctrl B)', Bold],
  ['em', 'Emphasis (Ctrl I)', Italic],
  ['list', 'List', List],
  ['numbers', 'Numbered list', ListOrdered],
  ['quote', 'Quotation', Quote],
  ['link', 'Link (Ctrl K)', Link],
  ['code', 'Code', Code],
  ['table', 'Table', Table],
]

/** Keys that write Markdown for whoever does not know its signs. */
export function MarkBar({ onMark }: { onMark: (m: Mark) => void }) {
  return (
    <div role="toolbar" aria-label="Markdown" className="flex flex-wrap gap-0.5 pt-1.5">
      {marks.map(([mark, name, Icon]) => (
        <button
          key={mark}
          type="button"
          aria-label={name}
          title={name}
          className="grid size-8 place-items-center rounded-lg text-ink-2 hover:bg-tide-3"
          onMouseDown={(e) => e.preventDefault()}
          onClick={() => onMark(mark)}
        >
          <Icon className="size-4" aria-hidden />
        </button>
      ))}
    </div>
  )
}
