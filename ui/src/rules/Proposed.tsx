import type { ProposedRule } from '../api/client'
import { carryOut, told } from '../state/commands'
import { emptyRule, ruleDraft } from '../state/rules'

/** A rule that would do what its owner does anyway, with its evidence. */
export function Proposed({ of: p, onLook }: { of: ProposedRule; onLook?: () => void }) {
  return (
    <section aria-label="Proposed" className="mb-3 rounded-[14px] border border-tide bg-tide-3 p-4">
      <h2 className="font-semibold">A rule for this?</h2>
      <p className="text-[14px]">{p.why}</p>
      <p className="truncate text-[13px] text-ink-2">{p.letters.join(' · ')}</p>
      <div className="mt-2 flex flex-wrap gap-2">
        <button
          className="btn btn-main"
          onClick={() => {
            ruleDraft.set({ ...emptyRule, name: p.name, conditions: p.conditions, steps: p.steps, proposal: p.key })
            onLook?.()
          }}
        >
          Look at it
        </button>
        <button
          className="btn"
          onClick={() => void carryOut({ path: 'decline-rule', body: { key: p.key } }).then(told)}
        >
          No
        </button>
      </div>
    </section>
  )
}
