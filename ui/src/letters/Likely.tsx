import type { Foretold } from '../api/client'
import { deck } from '../state/decisions'
import { keyName, useKeyOf } from '../state/keys'

/** The decision that is foretold of a letter, and from what it was learned. */
export function Likely({ foretold: f }: { foretold: Foretold }) {
  const keyOf = useKeyOf()
  const name = deck.find((d) => d.kind === f.kind)?.name
  return (
    <span className="chip !h-auto min-h-6 !bg-shore-2 !whitespace-normal" data-foretold={f.kind}>
      {['Likely', name, f.words].filter(Boolean).join(' ')}: {f.reason}
      {f.taken && keyOf('foretold') && <span className="key max-md:hidden">{keyName(keyOf('foretold'))}</span>}
    </span>
  )
}
