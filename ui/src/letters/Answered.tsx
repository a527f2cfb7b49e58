import { TextQuote } from 'lucide-react'
import { useState } from 'react'
import type { Ask, Conversation } from '../api/client'
import { useSelected } from '../state/quoting'
import { stamp } from '../state/time'
import { AskMarks } from './Asks'
import { LetterPaper } from './LetterPaper'

/** The letter that is being answered, in sight beside the answer: what is selected in it can
 * be quoted. */
export function Answered({
  conversation: c,
  letter,
  asks,
  onQuote,
  list,
}: {
  conversation: Conversation
  /** Which of its letters is answered. */
  letter: number | undefined
  asks: Ask[]
  /** Quotes what is selected; if nothing is, what comes next. */
  onQuote: (selected: string) => void
  /** The asks as a list, above the letter. */
  list: React.ReactNode
}) {
  const [root, setRoot] = useState<HTMLElement | null>(null)
  const selected = useSelected(root)
  const [opened, setOpened] = useState<ReadonlySet<number>>(new Set())
  const [images, setImages] = useState(false)
  const answered = letter ?? c.letterList.at(-1)?.id
  const shown = c.letterList.find((l) => l.id === answered)
  const toggle = (id: number) =>
    setOpened((was) => (was.has(id) ? new Set([...was].filter((o) => o !== id)) : new Set([...was, id])))
  return (
    <section aria-label="The letter that is answered" className="flex min-h-0 min-w-0 flex-1 flex-col">
      <header className="flex items-start gap-2 px-6 pt-4 pb-3 max-md:px-4">
        <div className="min-w-0 flex-1">
          <h2 className="serif !text-[21px] !leading-tight font-medium break-words">{c.title}</h2>
          {shown && (
            <p className="truncate pt-0.5 text-[13px] text-ink-3">
              {shown.own ? 'You' : shown.from.name || shown.from.email} · {stamp(shown.date)}
            </p>
          )}
        </div>
        <button
          type="button"
          className="btn shrink-0 btn-small"
          title={selected() ? 'Quote what is selected in the letter' : 'Quote what is to be answered next'}
          // The selection is lost with the focus.
          onMouseDown={(e) => e.preventDefault()}
          onClick={() => onQuote(selected())}
          data-quote
        >
          <TextQuote className="size-4" aria-hidden /> Quote <span className="key max-md:hidden">Alt Q</span>
        </button>
      </header>
      {list}
      <div
        ref={setRoot}
        className="min-h-0 flex-1 overflow-y-auto px-6 pb-6 max-md:px-4"
        tabIndex={0}
        role="region"
        aria-label="Text of the letter that is answered"
      >
        <AskMarks value={asks}>
          {c.letterList.map((l) => (
            <LetterPaper
              key={l.id}
              conversation={c}
              letter={l}
              open={l.id === answered || opened.has(l.id)}
              onToggle={l.id === answered ? undefined : () => toggle(l.id)}
              images={images}
              onImages={() => setImages(true)}
              reading
            />
          ))}
        </AskMarks>
      </div>
    </section>
  )
}
