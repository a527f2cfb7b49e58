import type { Proposal } from '../api/client'
import { offerKey } from '../state/phrasing'

/** The times that are offered, one of them in focus. */
export function Offers(props: {
  id: string
  offers: Proposal[]
  at: number
  typed?: Proposal
  className: string
  onTake: (p: Proposal) => void
}) {
  return (
    <ul id={props.id} role="listbox" aria-label="Times" className={props.className}>
      {props.offers.map((p, i) => (
        <li
          key={p.phrase}
          id={`${props.id}-${i}`}
          role="option"
          aria-selected={i === props.at}
          className={`flex cursor-pointer items-center gap-3 rounded-lg px-2 py-1.5 ${i === props.at ? 'bg-tide-2' : 'hover:bg-shore'}`}
          onMouseDown={(e) => e.preventDefault()}
          onClick={() => props.onTake(p)}
        >
          <span className="key shrink-0 !min-w-10">{offerKey(p, i)}</span>
          <span className="min-w-0">
            <span className="block truncate font-semibold first-letter:uppercase">{p.words}</span>
            <span className={`block truncate text-[13px] ${p.over ? 'text-buoy' : 'text-ink-2'}`}>
              {p === props.typed ? 'what you typed' : p.label}
              {p.why && ` · ${p.why}`}
            </span>
          </span>
        </li>
      ))}
    </ul>
  )
}
