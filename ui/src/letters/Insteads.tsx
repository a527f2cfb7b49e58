import type { Instead } from '../state/again'

const choices: [Instead, string, string][] = [
  ['answer', 'Answer', 'a line now, even that it takes longer'],
  ['handOn', 'Hand on', 'somebody else can do it'],
  ['followUp', 'Follow up', 'it is work: plan it'],
  ['done', 'Done', 'it has settled itself'],
]

/** What would settle a letter that was put off often. */
export function Insteads({ onInstead }: { onInstead?: (what: Instead) => void }) {
  return (
    <div className="grid gap-2 sm:grid-cols-2">
      {choices.map(([what, name, why], i) => (
        <button
          key={what}
          autoFocus={i === 0}
          className="btn !justify-start !py-2 text-left"
          onClick={() => onInstead?.(what)}
        >
          <span>
            <b className="block">{name}</b>
            <span className="text-[13px] text-ink-2">{why}</span>
          </span>
        </button>
      ))}
    </div>
  )
}
