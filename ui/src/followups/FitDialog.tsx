import { Scale } from 'lucide-react'
import { useState } from 'react'
import { useFit } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { carryOut, told } from '../state/commands'

/** What to move from today where to, so that it fits: looked over, then taken
 * as one step. */
export function FitDialog({ onClose }: { onClose: () => void }) {
  const { data, error } = useFit()
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set())
  const moves = (data?.moves ?? []).filter((m) => !left.has(m.id))
  const take = () => {
    onClose()
    void carryOut({ path: 'fit-follow-ups', body: { moves: moves.map((m) => ({ id: m.id, to: m.to })) } }).then(told)
  }
  return (
    <Dialog
      title="Make today fit"
      hint={data && `${data.planned} min planned, ${data.free} free`}
      icon={<Scale className="size-5 text-tide" aria-hidden />}
      onClose={onClose}
    >
      {error && <p className="text-buoy">{error.message}</p>}
      {!data && !error && <div aria-busy className="h-32 animate-pulse rounded-[14px] bg-shore-2" />}
      {data && data.moves.length === 0 && (
        <p className="text-ink-2">
          {data.left > 0
            ? 'What is too much is due at a minute of today, or no coming day has time. Nothing is moved by itself.'
            : 'Today fits already.'}
        </p>
      )}
      {data && data.moves.length > 0 && (
        <ul className="text-[14px]">
          {data.moves.map((m) => (
            <li key={m.id} className="flex items-center gap-3 border-t border-line py-1.5 first:border-t-0">
              <input
                type="checkbox"
                className="size-4 accent-[var(--tide)]"
                aria-label={`Move ${m.title}`}
                checked={!left.has(m.id)}
                onChange={() =>
                  setLeft((was) => {
                    const now = new Set(was)
                    if (!now.delete(m.id)) now.add(m.id)
                    return now
                  })
                }
              />
              <span className="min-w-0 flex-1 truncate">{m.title}</span>
              <span className="text-[13px] text-ink-3">{m.estimate || 15} min</span>
              <span className={`w-40 shrink-0 text-right ${m.over ? 'text-buoy' : ''}`}>
                to {m.words}
                {m.over && ', over-full'}
              </span>
            </li>
          ))}
        </ul>
      )}
      {data && data.left > 0 && data.moves.length > 0 && (
        <p className="pt-2 text-[13px] text-buoy">
          {data.left} min remain too much: they are due at a minute of today.
        </p>
      )}
      <DialogFoot>
        <button className="btn" onClick={onClose}>
          Leave it <span className="key">Esc</span>
        </button>
        {moves.length > 0 && (
          <button className="btn btn-main" autoFocus onClick={take}>
            Move {moves.length} <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Enter</span>
          </button>
        )}
      </DialogFoot>
    </Dialog>
  )
}
