import { useNavigate } from '@tanstack/react-router'
import { useDrafts, useJournal } from '../api/queries'
import { undo } from '../state/commands'
import { useKeys } from '../state/keys'
import { stamp } from '../state/time'
import { resume } from '../state/writing'

const actors: Record<string, string> = { person: 'you', clock: 'the clock', import: 'an import', post: 'the post' }

/** Every change, by whom, with undo. */
export function JournalView() {
  const { data = [], isPending } = useJournal()
  useKeys({ undo: () => void undo() })
  return (
    <main className="mx-auto flex min-h-0 w-full max-w-4xl flex-1 flex-col px-4 pb-3" aria-label="Journal">
      <div className="flex items-baseline gap-3 py-2">
        <h1 className="text-[20px] font-bold">Journal</h1>
        <span className="text-[13px] text-ink-3">every change, by whom; the latest hundred</span>
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto">
        {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
        {!isPending && data.length === 0 && <p className="p-6 text-ink-2">Nothing has happened yet.</p>}
        {data.map((e) => (
          <div key={e.entry} className="flex min-h-9 items-center gap-3 border-b border-line py-1">
            <span className="w-28 shrink-0 text-[13px] text-ink-3">{stamp(e.at)}</span>
            <span className={`min-w-0 flex-1 truncate ${e.undone ? 'text-ink-3 line-through' : ''}`}>{e.title}</span>
            <span className="chip">{actors[e.actor] ?? e.actor}</span>
            <span className="w-16 text-right">
              {e.undo ? (
                <button
                  className="btn !min-h-7 !px-2"
                  aria-label={`Undo: ${e.title}`}
                  onClick={() => void undo(e.entry)}
                >
                  Undo
                </button>
              ) : (
                e.undone && <span className="text-[13px] text-ink-3">undone</span>
              )}
            </span>
          </div>
        ))}
      </div>
    </main>
  )
}

/** Letters begun and not yet sent. */
export function DraftsView() {
  const { data = [], isPending } = useDrafts()
  const go = useNavigate()
  useKeys({ undo: () => void undo() })
  return (
    <main className="mx-auto flex min-h-0 w-full max-w-4xl flex-1 flex-col px-4 pb-3" aria-label="Drafts">
      <h1 className="py-2 text-[20px] font-bold">Drafts</h1>
      {!isPending && data.length === 0 && <p className="p-6 text-ink-2">No letter is half written.</p>}
      {data.map((d) => (
        <button
          key={d.id}
          className="flex min-h-11 items-center gap-3 rounded-[12px] px-3 text-left hover:bg-paper"
          onClick={() => {
            resume(d)
            void go(d.conversation ? { to: '/letter/$id', params: { id: String(d.conversation) } } : { to: '/inbox' })
          }}
        >
          <span className="w-40 shrink-0 truncate font-semibold">{d.writing.to.join(', ') || 'nobody yet'}</span>
          <span className="min-w-0 flex-1 truncate">{d.writing.subject || '(no subject)'}</span>
          <span className="text-[13px] text-ink-3">{stamp(d.updatedAt)}</span>
        </button>
      ))}
    </main>
  )
}
