import { ArrowDown, ArrowUp, Columns3, X } from 'lucide-react'
import { useState } from 'react'
import type { Board, Stage, Weights } from '../api/client'
import { Dialog } from '../kit/Dialog'
import { accountColours, accountShapes, AccountMark, colourNames } from '../kit/Marks'
import { carryOut, told, type StageFields } from '../state/commands'

/** The person's own stages, the names in use, and what the order weighs. */
export function StagesDialog({ board, onClose }: { board: Board; onClose: () => void }) {
  const [name, setName] = useState('')
  return (
    <Dialog
      wide
      title="Stages, names and order"
      icon={<Columns3 className="size-5 text-tide" aria-hidden />}
      onClose={onClose}
    >
      <h3 className="pb-1 text-[14px] font-semibold">Stages</h3>
      <ul>
        {board.stages.map((s, i) => (
          <Row key={s.id} s={s} index={i} last={i === board.stages.length - 1} />
        ))}
      </ul>
      <form
        className="flex gap-2 border-t border-line py-2"
        onSubmit={(e) => {
          e.preventDefault()
          void carryOut({ path: 'new-follow-stage', body: { name } }).then((o) => o && setName(''))
        }}
      >
        <input
          required
          aria-label="Name of a new stage"
          placeholder="In review"
          className="field !w-56"
          maxLength={100}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button className="btn">Add a stage</button>
      </form>
      {(
        [
          ['project', 'Projects', board.names.projects],
          ['context', 'Contexts', board.names.contexts],
          ['assignee', 'Who does it', board.names.people],
        ] as const
      ).map(
        ([field, title, list]) =>
          list.length > 0 && (
            <section key={field} aria-label={title}>
              <h3 className="pt-3 pb-1 text-[14px] font-semibold">{title}</h3>
              <div className="flex flex-wrap gap-2">
                {list.map((n) => (
                  <Named key={n} field={field} name={n} />
                ))}
              </div>
            </section>
          ),
      )}
      <Order weights={board.weights} />
    </Dialog>
  )
}

function Row({ s, index, last }: { s: Stage; index: number; last: boolean }) {
  const edit = (body: StageFields) => carryOut({ path: 'edit-follow-stage', id: s.id, body })
  const [typed, setTyped] = useState<string>()
  const end = () => {
    if (typed?.trim() && typed.trim() !== s.name) void edit({ name: typed.trim() })
    setTyped(undefined)
  }
  return (
    <li className="flex flex-wrap items-center gap-2 border-t border-line py-1.5">
      <AccountMark hidden large account={{ label: s.name, colour: s.colour, shape: s.shape }} />
      <input
        aria-label={`Name of ${s.name}`}
        className="field !w-44"
        maxLength={100}
        value={typed ?? s.name}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={end}
        onKeyDown={(e) => e.key === 'Enter' && end()}
      />
      <select
        aria-label={`Colour of ${s.name}`}
        className="field !w-auto"
        value={s.colour}
        onChange={(e) => void edit({ colour: e.target.value })}
      >
        {accountColours.map((c) => (
          <option key={c} value={c}>
            {colourNames[c] ?? c}
          </option>
        ))}
      </select>
      <select
        aria-label={`Shape of ${s.name}`}
        className="field !w-auto"
        value={s.shape}
        onChange={(e) => void edit({ shape: e.target.value })}
      >
        {accountShapes.map((c) => (
          <option key={c}>{c}</option>
        ))}
      </select>
      <label className="flex items-center gap-1 text-[13px] text-ink-2">
        at most
        <input
          type="number"
          min={0}
          max={1000}
          className="field !w-20"
          key={s.most}
          defaultValue={s.most || ''}
          placeholder="any"
          onBlur={(e) => Number(e.target.value) !== s.most && void edit({ most: Number(e.target.value) || 0 })}
        />
      </label>
      <span className="flex-1" />
      <button
        className="btn btn-tight"
        aria-label={`Move ${s.name} up`}
        disabled={index === 0}
        onClick={() => void edit({ position: index - 1 })}
      >
        <ArrowUp className="size-4" aria-hidden />
      </button>
      <button
        className="btn btn-tight"
        aria-label={`Move ${s.name} down`}
        disabled={last}
        onClick={() => void edit({ position: index + 1 })}
      >
        <ArrowDown className="size-4" aria-hidden />
      </button>
      <button
        className="btn btn-tight"
        aria-label={`Take ${s.name} away`}
        onClick={() => void edit({ remove: true }).then(told)}
      >
        <X className="size-4" aria-hidden />
      </button>
    </li>
  )
}

function Named({ field, name }: { field: 'project' | 'context' | 'assignee'; name: string }) {
  const [typed, setTyped] = useState<string>()
  const rename = (now: string) =>
    void carryOut({ path: 'rename-follow-ups', body: { field, was: name, now } }).then(told)
  const end = () => {
    if (typed !== undefined && typed.trim() !== name && typed.trim()) rename(typed.trim())
    setTyped(undefined)
  }
  return (
    <span className="inline-flex">
      <input
        aria-label={`Rename ${name}`}
        className="field !w-40 !rounded-r-none !py-1"
        maxLength={100}
        value={typed ?? name}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={end}
        onKeyDown={(e) => e.key === 'Enter' && end()}
      />
      <button
        className="btn !rounded-l-none !border-l-0 btn-tight"
        aria-label={`Take ${name} away`}
        onClick={() => rename('')}
      >
        <X className="size-3.5" aria-hidden />
      </button>
    </span>
  )
}

const reasons: [keyof Weights, string][] = [
  ['due', 'When it is due'],
  ['priority', 'Its priority'],
  ['waits', 'Who waits for it'],
  ['age', 'How old it is'],
  ['fits', 'Whether it fits into what is left of today'],
]

function Order({ weights }: { weights: Weights }) {
  const set = (key: keyof Weights, value: number) =>
    void carryOut({ path: 'weigh-follow-ups', body: { weights: { ...weights, [key]: value } } })
  return (
    <section aria-label="Order">
      <h3 className="pt-3 text-[14px] font-semibold">Order of work</h3>
      <p className="pb-2 text-[13px] text-ink-3">
        How much each counts, from 0 to 10. Each follow-up says why it stands where it stands.
      </p>
      <div className="grid gap-x-6 gap-y-1 sm:grid-cols-2">
        {reasons.map(([key, what]) => (
          <label key={key} className="flex items-center gap-3 text-[13px]">
            <span className="min-w-0 flex-1">{what}</span>
            <input
              type="range"
              min={0}
              max={10}
              step={0.5}
              className="h-6 w-32 accent-[var(--tide)]"
              key={weights[key]}
              defaultValue={weights[key]}
              onPointerUp={(e) => set(key, Number(e.currentTarget.value))}
              onKeyUp={(e) => set(key, Number(e.currentTarget.value))}
            />
            <span className="w-6 text-right tabular-nums">{weights[key]}</span>
          </label>
        ))}
      </div>
      <button className="btn mt-2 btn-small" onClick={() => void carryOut({ path: 'weigh-follow-ups', body: {} })}>
        The usual weights
      </button>
    </section>
  )
}
