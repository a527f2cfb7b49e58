import { Link } from '@tanstack/react-router'
import { useRuleDid } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { carryOut, told } from '../state/commands'
import { stamp } from '../state/time'

/** What a rule did lately, each to be taken back for one letter. */
export function RuleDid({ rule }: { rule: number }) {
  const { data, isError, error, refetch } = useRuleDid(rule)
  const back = (entry: number, conversation: number) =>
    void carryOut({ path: 'undo-rule', id: rule, body: { entry, conversation } }).then(told)
  if (isError && !data) return <CouldNotRead what="What it did" error={error} again={() => void refetch()} />
  if (!data) return <div aria-busy className="mt-2 h-16 animate-pulse rounded-lg bg-shore-2" />
  if (data.length === 0) return <p className="pt-2 text-[14px] text-ink-2">It has done nothing yet.</p>
  return (
    <ol className="mt-2 grid max-h-80 gap-2 overflow-y-auto" tabIndex={0} aria-label="What it did">
      {data.map((e) => (
        <li key={e.entry} className={`rounded-lg bg-shore/60 p-2 text-[14px] ${e.undone ? 'text-ink-3' : ''}`}>
          <p>
            <span className="text-ink-3">{stamp(e.at)}</span> {e.title} {e.undone && '(undone)'}
          </p>
          <ul>
            {e.letters.map((l) => (
              <li key={l.conversation} className="flex items-center gap-2">
                <Link
                  to="/letter/$id"
                  params={{ id: String(l.conversation) }}
                  className="min-w-0 flex-1 truncate py-1.5 underline"
                >
                  {l.title || 'a letter that is gone'}
                </Link>
                {!e.undone && e.undo && (
                  <button
                    className="btn btn-small"
                    aria-label={`Undo for “${l.title}”`}
                    onClick={() => back(e.entry, l.conversation)}
                  >
                    Undo
                  </button>
                )}
              </li>
            ))}
          </ul>
        </li>
      ))}
    </ol>
  )
}
