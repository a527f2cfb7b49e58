import { Layers } from 'lucide-react'
import type { components } from '../api/schema'
import { useState, type KeyboardEvent } from 'react'
import type { Row } from '../api/client'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { carryOut, told } from '../state/commands'
import { stamp } from '../state/time'
import type { Target } from '../state/listing'
import { kinds, refusals, settledWord, type Kind, type Refusal, type Scope } from '../state/sorting'
import { Mattering, saysMatters } from './Mattering'

type Way = components['schemas']['Way']

/** How a list is left, and what became of it. */
function wayWords(way: Way): string {
  if (way.asked)
    return `asked ${stamp(way.asked)}; ${way.since ?? 0} since${way.late ? ', although it had its time' : ''}`
  return way.by === 'click' ? 'the list is asked at once' : `by a letter to ${way.to}`
}

const scopes: [Scope | undefined, string][] = [
  ['address', 'this sender'],
  ['list', 'the whole list'],
  ['domain', 'its domain'],
  [undefined, 'only this'],
]

/** Why something is among letters of its kind, and where it and letters like it go. */
export function SortDialog(props: {
  title: string
  /** Where it is now, and why. */
  kind: Kind | Refusal
  why: string
  list: boolean
  /** The letter by which it is about, and how its list is left. */
  leaving?: { letter: number; way: Way } | undefined
  /** The conversation in focus, and all of those that it is about. */
  row: Pick<Row, 'id' | 'high'>
  on: readonly Target[]
  onClose: () => void
  onTake: (kind: Kind, scope: Scope | undefined) => void
  onRefuse: (kind: Refusal, scope: Scope) => void
}) {
  const [scope, setScope] = useState<Scope | undefined>('address')
  const now = settledWord(props.kind)
  const way = props.leaving?.way
  const leavable = way && way.by !== 'page' && props.kind !== 'junk'
  const leave = () => {
    props.onClose()
    if (props.leaving) void carryOut({ path: 'unsubscribe', id: props.leaving.letter, body: {} }).then(told)
  }
  const digits = (e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return
    const to = kinds.find((k) => k.digit === e.key)
    if (e.key === '+' || e.key === '-') {
      e.preventDefault()
      props.onClose()
      return saysMatters(props.on, e.key === '+')
    }
    if (e.key === '0' && leavable) return (e.preventDefault(), leave())
    const no = refusals.find((k) => k.digit === e.key)
    if (!to && !no) return
    e.preventDefault()
    if (to) props.onTake(to.kind, scope)
    else if (no && scope) props.onRefuse(no.kind, scope)
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
        <div className="mt-3 grid gap-1.5" role="group" aria-label="Not wanted">
          {leavable && (
            <button className="btn justify-start gap-3" onClick={leave}>
              Unsubscribe <span className="flex-1 text-left font-normal text-ink-2">{wayWords(way)}</span>
              <span className="key">0</span>
            </button>
          )}
          {way?.by === 'page' && (
            <p className="text-[14px] text-ink-2">
              The list is left on{' '}
              <a className="text-tide underline" href={way.to} target="_blank" rel="noreferrer noopener">
                its own page
              </a>
              .
            </p>
          )}
          {refusals
            .filter((r) => r.kind !== 'wanted' || props.kind === 'junk')
            .map((r) => (
              <button
                key={r.kind}
                className="btn justify-start gap-3"
                disabled={!scope}
                onClick={() => scope && props.onRefuse(r.kind, scope)}
              >
                {r.word} <span className="flex-1 text-left font-normal text-ink-2">{r.what}</span>
                <span className="key">{r.digit}</span>
              </button>
            ))}
        </div>
        <Mattering row={props.row} on={props.on} onClose={props.onClose} />
      </div>
      <DialogFoot>
        <button className="btn" onClick={props.onClose}>
          Leave it <span className="key">Esc</span>
        </button>
      </DialogFoot>
    </Dialog>
  )
}
