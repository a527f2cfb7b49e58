import { Waves } from 'lucide-react'
import { useState } from 'react'
import type { CatchUp } from '../api/client'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { carryOut, told, type DecideBody } from '../state/commands'
import { LaterDialog } from './LaterDialog'

type Group = CatchUp['groups'][number]

/** What came while the person was away, in parts that can be decided on or
 * spread over days, each as one step. */
export function CatchUpDialog(props: { catchUp: CatchUp; away: string; onClose: () => void }) {
  const [gone, setGone] = useState<ReadonlySet<string>>(new Set())
  const [later, setLater] = useState<Group[]>()
  const groups = props.catchUp.groups.filter((g) => !gone.has(g.label + g.kind))
  const decide = (list: Group[], body: Omit<DecideBody, 'on'>) => {
    const on = list.flatMap((g) => g.on)
    setGone((was) => new Set([...was, ...list.map((g) => g.label + g.kind)]))
    void carryOut({ path: 'decide', body: { ...body, on }, hides: on.map((t) => t.id) }).then((o) => {
      if (!o) setGone((was) => new Set([...was].filter((k) => !list.some((g) => g.label + g.kind === k))))
      else told(o)
    })
  }
  if (later)
    return (
      <LaterDialog
        hint={`${later.flatMap((g) => g.on).length} letters`}
        about={{ for: later[0]?.on[0]?.id, count: later.flatMap((g) => g.on).length }}
        spread={later.flatMap((g) => g.on.map((t) => t.id))}
        onClose={() => setLater(undefined)}
        onTake={(p) => {
          decide(later, { kind: 'later', when: p.phrase })
          setLater(undefined)
        }}
        onSpread={(each) => {
          decide(later, { kind: 'later', each })
          setLater(undefined)
        }}
      />
    )
  return (
    <Dialog
      title={`${props.catchUp.total} letters since ${props.away}`}
      hint="what came while you were away"
      icon={<Waves className="size-5 text-tide" aria-hidden />}
      onClose={props.onClose}
    >
      <ul className="min-h-0 overflow-y-auto">
        {groups.map((g) => (
          <li key={g.label + g.kind} className="flex flex-wrap items-center gap-2 border-b border-line py-1.5">
            <span className="min-w-40 flex-1 truncate">
              <b className="font-semibold">{g.label}</b> <span className="text-ink-3">{g.on.length}</span>
            </span>
            <button
              className="btn btn-small"
              aria-label={`Archive ${g.label}`}
              onClick={() => decide([g], { kind: 'done' })}
            >
              To the archive
            </button>
            <button className="btn btn-small" aria-label={`Put off ${g.label}`} onClick={() => setLater([g])}>
              Later…
            </button>
          </li>
        ))}
        {groups.length === 0 && <li className="py-4 text-ink-2">All of it is decided.</li>}
      </ul>
      <DialogFoot>
        {groups.length > 0 && (
          <button className="btn mr-auto" onClick={() => setLater(groups)}>
            Spread all of it over days…
          </button>
        )}
        <button autoFocus className="btn btn-main" onClick={props.onClose}>
          To the inbox
        </button>
      </DialogFoot>
    </Dialog>
  )
}
