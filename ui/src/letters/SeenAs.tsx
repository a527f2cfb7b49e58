import { useEffect, useRef } from 'react'
import { coming } from '../state/attaching'
import { Page } from './LetterFrame'
import type { Open } from '../state/writing'

/** The letter as whoever gets it will see it. */
export function SeenAs({ open }: { open: Open }) {
  const { writing: w, draft } = open
  // What is on its way is shown once it has come.
  const going = coming.useOf((all) => (w.files ?? []).filter((f) => all.has(f.id)).length)
  // The text had the focus, and is gone; its keys are still pressed.
  const room = useRef<HTMLDivElement>(null)
  useEffect(() => room.current?.focus(), [])
  return (
    <div
      ref={room}
      className="min-h-24 flex-1 overflow-y-auto py-3"
      aria-label="As they see it"
      role="region"
      tabIndex={0}
    >
      {w.markdown ? (
        <Page
          src={`/api/drafts/${encodeURIComponent(draft)}/page?without=${going}`}
          title="The letter as they see it"
        />
      ) : (
        <div className="serif max-w-[68ch] break-words whitespace-pre-wrap">
          {w.text.trimEnd()}
          {w.quoted?.trim() && w.along !== 'letter' && `\n\n${w.quoted}`}
        </div>
      )}
    </div>
  )
}
