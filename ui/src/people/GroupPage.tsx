import { Link } from '@tanstack/react-router'
import { Pencil, PenLine } from 'lucide-react'
import type { CorrespondentGroup } from '../api/client'

/** People who are written to together, each of them a way to who that is. */
export function GroupPage({ group: g, onChoose }: { group: CorrespondentGroup; onChoose: (address: string) => void }) {
  return (
    <article aria-label={g.name} className="px-5 pt-4 pb-6 max-md:px-3">
      <header className="border-b-2 border-deep pb-3">
        <h2 className="text-[24px] leading-tight font-bold break-words">{g.name}</h2>
        <p className="text-[14px] text-ink-2">{g.members.length} who are written to together</p>
        <div className="flex flex-wrap gap-1.5 pt-2.5">
          {g.members.length > 0 && (
            <Link className="btn btn-small btn-main" to="/write" search={{ mailto: g.mailto }}>
              <PenLine className="size-3.5" aria-hidden /> Write to all of them
            </Link>
          )}
          <Link className="btn btn-small" to="/templates">
            <Pencil className="size-3.5" aria-hidden /> Change the group
          </Link>
        </div>
      </header>
      <ul aria-label="Who is in it" className="pt-3">
        {g.members.map((m) => (
          <li key={m.address} className="border-b border-line">
            <button
              className="flex w-full flex-wrap items-baseline gap-x-2 py-1.5 text-left hover:bg-tide-3"
              onClick={() => onChoose(m.address)}
            >
              <span className="min-w-0 truncate font-medium">{m.name}</span>
              {m.name !== m.address && <span className="text-[13px] break-all text-ink-3">{m.address}</span>}
            </button>
          </li>
        ))}
      </ul>
    </article>
  )
}
