import { Layers, X } from 'lucide-react'
import { useRef, useState } from 'react'
import type { Shoal } from '../api/client'
import { useCorrections } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { carryOut, told } from '../state/commands'
import { settledWord } from '../state/sorting'
import { stamp } from '../state/time'

/** Which kinds are sorted out, and what was settled of senders. */
export function KindsDialog({ kinds, onClose }: { kinds: Shoal[]; onClose: () => void }) {
  const { data: corrections = [] } = useCorrections()
  const out = kinds.filter((k) => k.out).map((k) => k.kind)
  const set = (kind: Shoal['kind'], on: boolean) =>
    void carryOut({
      path: 'sort-out',
      body: { out: on ? [...out, kind] : out.filter((k) => k !== kind) },
    }).then(told)
  return (
    <Dialog
      title="What is sorted out"
      hint="of what comes from now on"
      icon={<Layers className="size-5 text-tide" aria-hidden />}
      onClose={onClose}
    >
      <ul>
        {kinds.map((k) => (
          <li key={k.kind} className="border-b border-line">
            <label className="flex min-h-11 cursor-pointer items-center gap-3 py-1.5">
              <input
                type="checkbox"
                className="size-4 accent-tide"
                checked={k.out}
                onChange={(e) => set(k.kind, e.target.checked)}
              />
              <b className="w-24 font-semibold">{k.name}</b>
              <span className="min-w-0 flex-1 text-[14px] text-ink-2">{k.what}</span>
            </label>
            <ComesUp shoal={k} />
          </li>
        ))}
      </ul>
      <h3 className="pt-4 pb-1 text-[14px] font-semibold">What you have settled</h3>
      <ul className="max-h-60 overflow-y-auto">
        {corrections.map((c) => (
          <li key={c.id} className="flex items-center gap-2 border-b border-line py-1 text-[14px]">
            <span className="min-w-0 flex-1">
              <span className="block truncate">{c.of}</span>
              <span className="block truncate text-[13px] text-ink-2">
                since {stamp(c.made)}
                {c.took
                  ? `, ${c.took} ${c.kind === 'left' ? 'came since' : 'put away'}, the last ${stamp(c.last ?? c.made)}`
                  : ''}
                {c.late ? '; it had its time: turn it away' : ''}
              </span>
            </span>
            <span className="text-ink-2">{settledWord(c.kind)}</span>
            {c.here ? (
              <button
                className="btn btn-small"
                onClick={() => void carryOut({ path: 'end-correction', id: c.id, body: { fetch: true } }).then(told)}
              >
                End it, fetch {c.here}
              </button>
            ) : null}
            <button
              className="grid size-8 place-items-center rounded-lg hover:bg-tide-3"
              aria-label={`No longer: ${c.of}`}
              onClick={() => void carryOut({ path: 'end-correction', id: c.id, body: {} }).then(told)}
            >
              <X className="size-4" aria-hidden />
            </button>
          </li>
        ))}
        {corrections.length === 0 && (
          <li className="py-2 text-[14px] text-ink-2">
            Nothing yet. Whatever you move to another kind, or to the inbox, is kept here.
          </li>
        )}
      </ul>
      <DialogFoot>
        <button autoFocus className="btn btn-main" onClick={onClose}>
          Close
        </button>
      </DialogFoot>
    </Dialog>
  )
}

/** When a kind comes up by itself, above the inbox. */
function ComesUp({ shoal }: { shoal: Shoal }) {
  const [typed, setTyped] = useState<string>()
  const field = useRef<HTMLInputElement>(null)
  const text = typed ?? shoal.rounds ?? ''
  const keep = () => {
    if (typed === undefined || typed.trim() === (shoal.rounds ?? '')) return setTyped(undefined)
    void carryOut({ path: 'surface-at', body: { kind: shoal.kind, rounds: typed } }).then((o) => {
      if (!o) return // it says why; what was typed stays to be put right
      setTyped(undefined)
      told(o)
    })
  }
  return (
    <form
      className="flex items-center gap-2 pb-1.5 pl-7 text-[14px] text-ink-2"
      onSubmit={(e) => {
        e.preventDefault()
        field.current?.blur() // which keeps it
      }}
    >
      <label className="flex flex-1 items-center gap-2">
        comes up
        <input
          ref={field}
          className="field !w-56 !py-0.5"
          placeholder="never; as in fri 15:00"
          aria-label={`When ${shoal.name} comes up by itself`}
          value={text}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={keep}
        />
      </label>
    </form>
  )
}
