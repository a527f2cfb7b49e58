import { useState, type ReactNode } from 'react'
import type { Followed } from '../api/client'

/** The notes on a follow-up: read as they look, written in Markdown. */
export function FollowNotes({ f, onKeep }: { f: Followed; onKeep: (notes: string) => void }) {
  const [typed, setTyped] = useState<string>()
  const Head: ReactNode = (
    <div className="flex items-center gap-2 pb-1">
      <span className="text-[13px] text-ink-2">Notes</span>
      {typed === undefined && (
        <button className="btn !min-h-6 btn-tight !py-0 text-[12px]" onClick={() => setTyped(f.notes)}>
          {f.notes ? 'Change' : 'Write'}
        </button>
      )}
    </div>
  )
  if (typed === undefined)
    return (
      <div>
        {Head}
        {/* Made safe by the server: nothing in it runs or is fetched. */}
        {f.notesHtml && <div className="notes text-[14px]" dangerouslySetInnerHTML={{ __html: f.notesHtml }} />}
      </div>
    )
  const end = () => {
    if (typed !== f.notes) onKeep(typed)
    setTyped(undefined)
  }
  return (
    <div>
      {Head}
      <textarea
        aria-label="Notes, in Markdown"
        autoFocus
        className="field min-h-32 font-mono !text-[13px]"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={end}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) end()
          if (e.key === 'Escape') {
            e.stopPropagation()
            end()
          }
        }}
      />
    </div>
  )
}
