import { Layers } from 'lucide-react'
import { useState, type KeyboardEvent } from 'react'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { kinds, type Kind, type Scope } from '../state/sorting'

const scopes: [Scope | undefined, string][] = [
  ['address', 'this sender'],
  ['list', 'the whole list'],
  ['domain', 'automatic mail of its domain'],
  [undefined, 'only this'],
]

/** Why something is among letters of its kind, and where it and letters like it go. */
export function SortDialog(props: {
  title: string
  /** Where it is now, and why. */
  kind: Kind
  why: string
  list: boolean
  onClose: () => void
  onTake: (kind: Kind, scope: Scope | undefined) => void
}) {
  const [scope, setScope] = useState<Scope | undefined>('address')
  const now = kinds.find((k) => k.kind === props.kind)?.word ?? ''
  const digits = (e: KeyboardEvent) => {
    const to = kinds.find((k) => k.digit === e.key)
    if (!to || e.ctrlKey || e.metaKey || e.altKey) return
    e.preventDefault()
    props.onTake(to.kind, scope)
  }
  return (
    <Dialog
      title="Where it goes"
      hint={props.title}
      icon={<Layers className="size-5 text-tide" aria-hidden />}
      onClose={props.onClose}
    >
      <div onKeyDown={digits}>
        <p className="rounded-lg bg-shore-2 px-3 py-2 text-[14px]">
          <b className="font-semibold">{now}</b>
          {props.why ? `: ${props.why}.` : ': nothing says that it is anything but a person’s letter.'}
        </p>
        <fieldset className="mt-3 flex flex-wrap gap-1.5">
          <legend className="pb-1 text-[13px] text-ink-2">From now on, for</legend>
          {scopes
            .filter(([value]) => value !== 'list' || props.list)
            .map(([value, words]) => (
              <label
                key={words}
                className={`btn btn-small cursor-pointer ${scope === value ? '!bg-tide-2' : ''} focus-within:outline-2 focus-within:outline-tide`}
              >
                <input
                  type="radio"
                  name="scope"
                  className="sr-only"
                  checked={scope === value}
                  onChange={() => setScope(value)}
                />
                {words}
              </label>
            ))}
        </fieldset>
        <div className="mt-3 grid grid-cols-3 gap-2 max-md:grid-cols-2" role="group" aria-label="To">
          {kinds.map((k, i) => (
            <button
              key={k.kind}
              autoFocus={i === 0}
              className="btn justify-between"
              onClick={() => props.onTake(k.kind, scope)}
            >
              {k.word} <span className="key">{k.digit}</span>
            </button>
          ))}
        </div>
      </div>
      <DialogFoot>
        <button className="btn" onClick={props.onClose}>
          Leave it <span className="key">Esc</span>
        </button>
      </DialogFoot>
    </Dialog>
  )
}
