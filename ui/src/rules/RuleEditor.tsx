import { useState } from 'react'
import type { Rules } from '../api/client'
import { carryOut, told } from '../state/commands'
import { meanwhile } from '../state/drafting'
import { standing, type RuleDraft } from '../state/rules'
import { ConditionList } from './ConditionList'
import { DryRun, useDryRun } from './DryRun'
import { Steps } from './Steps'

/** A rule while it is made or changed, with what it would have done. */
export function RuleEditor(props: {
  draft: RuleDraft
  about: Rules
  onChange: (to: RuleDraft) => void
  onDone: () => void
}) {
  const { draft: d, about, onChange, onDone } = props
  const tried = useDryRun(d)
  const [forwards, setForwards] = useState<string[]>([])
  const sendsTo = d.steps.filter((s) => s.do === 'forward' && s.to).map((s) => s.to as string)
  const people = tried.data?.people ?? 0
  const now = about.rules.find((r) => r.id === d.id)
  const elsewhere = meanwhile(d, now && standing(now))
  const set = (to: Partial<RuleDraft>) => onChange({ ...d, ...to })
  const save = () => {
    const body = {
      name: d.name,
      conditions: d.conditions,
      steps: d.steps,
      stop: d.stop,
      people: d.people && people > 0,
      until: d.until,
      forwards,
      ...(d.turnsOn ? { off: false } : {}),
      ...(d.proposal ? { proposal: d.proposal } : {}),
    }
    void carryOut(d.id === undefined ? { path: 'new-rule', body } : { path: 'edit-rule', id: d.id, body }).then(
      (o) => told(o) && onDone(),
    )
  }
  return (
    <form
      aria-label={d.id === undefined ? 'New rule' : `Change ${d.name}`}
      className="mb-3 grid gap-x-5 gap-y-3 rounded-[14px] border border-line bg-paper p-4 lg:grid-cols-[minmax(0,1fr)_minmax(0,26rem)]"
      onSubmit={(e) => {
        e.preventDefault()
        save()
      }}
      onKeyDown={(e) => e.key === 'Escape' && onDone()}
    >
      <div className="grid content-start gap-3">
        <input
          className="field"
          aria-label="Name"
          placeholder="What it is called; its acts stand under this name in the Journal"
          autoFocus
          value={d.name}
          onChange={(e) => set({ name: e.target.value })}
        />
        {elsewhere && (
          <p role="status" className="rounded-lg bg-lamp-2 px-3 py-2 text-[14px]">
            {elsewhere}
          </p>
        )}
        {d.hint && <p className="rounded-lg bg-lamp-2 px-3 py-2 text-[14px] whitespace-pre-line">{d.hint}</p>}
        <div className="grid gap-1.5">
          <h2 className="text-[13px] font-semibold text-ink-2">When a letter is let in</h2>
          <ConditionList conditions={d.conditions} about={about} onChange={(conditions) => set({ conditions })} />
        </div>
        <div className="grid gap-1.5">
          <h2 className="text-[13px] font-semibold text-ink-2">do this with it</h2>
          <Steps rule steps={d.steps} onChange={(steps) => set({ steps })} />
        </div>
        <div className="flex flex-wrap items-center gap-x-5 gap-y-2 text-[14px]">
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={d.stop} onChange={(e) => set({ stop: e.target.checked })} />
            No later rule sees what it took
          </label>
          <label className="flex items-center gap-2">
            until
            <input
              className="field !w-56 !py-1"
              aria-label="Until"
              placeholder="always"
              value={d.until}
              onChange={(e) => set({ until: e.target.value })}
            />
          </label>
          {people > 0 && (
            <label className="flex items-center gap-2">
              <input type="checkbox" checked={d.people} onChange={(e) => set({ people: e.target.checked })} />
              Take what people write out of sight, too: {people} of these
            </label>
          )}
          {sendsTo.map((to) => (
            <label key={to} className="flex items-center gap-2">
              <input
                type="checkbox"
                checked={forwards.includes(to)}
                onChange={(e) => setForwards(e.target.checked ? [...forwards, to] : forwards.filter((f) => f !== to))}
              />
              Send every letter that it takes on to {to}
            </label>
          ))}
        </div>
      </div>
      <DryRun of={tried} />
      <div className="flex justify-end gap-2 lg:col-span-2">
        <button type="button" className="btn" onClick={onDone}>
          Cancel <span className="key">Esc</span>
        </button>
        <button className="btn btn-main">{d.id === undefined ? 'Keep the rule' : 'Keep the change'}</button>
      </div>
    </form>
  )
}
