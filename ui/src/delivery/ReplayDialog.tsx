import { History } from 'lucide-react'
import { useState } from 'react'
import type { Delivery, Plan } from '../api/client'
import { usePlanExamples, usePlanPreview } from '../api/queries'
import { Dialog } from '../kit/Dialog'
import { DeliveriesTable, ReplayCharts, ReplayTable } from './ReplayView'
import { inZone, serverNow } from '../state/time'

/** The letters of last week under one plan and another. */
export function ReplayDialog(props: { plan: Plan; delivery: Delivery; account: number; onClose: () => void }) {
  const { plan, delivery, account } = props
  const { data: examples = [] } = usePlanExamples(true)
  const none: Plan = { days: plan.days.map(() => ({ rounds: [], quiet: [], closed: [] })), exceptions: [] }
  const others: [string, Plan][] = [
    ['no plan', none],
    ...(JSON.stringify(plan) !== JSON.stringify(delivery.plan.plan)
      ? ([['the plan in force', delivery.plan.plan]] as [string, Plan][])
      : []),
    ...delivery.past.filter((p) => !p.inForce).map((p): [string, Plan] => [`the plan of ${p.words}`, p.plan]),
    ...examples.map((e): [string, Plan] => [e.name.toLowerCase(), e.plan]),
  ]
  const [at, setAt] = useState(0)
  const other = others[at] ?? others[0]
  const mine = usePlanPreview(account, plan)
  const theirs = usePlanPreview(account, other?.[1])
  const start = inZone(serverNow())
  start.setDate(start.getDate() - 7)
  start.setHours(0, 0, 0, 0)
  const plans = mine.data &&
    theirs.data && [
      { name: 'This plan', replay: mine.data.replay },
      { name: (other?.[0] ?? '').replace(/^./, (c) => c.toUpperCase()), replay: theirs.data.replay },
    ]
  return (
    <Dialog
      wide
      title="Last week under this plan"
      icon={<History className="size-5 text-tide" aria-hidden />}
      onClose={props.onClose}
    >
      <label className="flex items-center gap-2 pb-3 text-[13px] text-ink-2">
        Beside
        <select
          autoFocus
          className="field !w-auto !py-1 text-ink"
          value={at}
          onChange={(e) => setAt(Number(e.target.value))}
        >
          {others.map(([words], i) => (
            <option key={i} value={i}>
              {words}
            </option>
          ))}
        </select>
      </label>
      {(mine.error ?? theirs.error) && (
        <p role="alert" className="text-buoy">
          {(mine.error ?? theirs.error)?.message}
        </p>
      )}
      {plans ? (
        <>
          <ReplayCharts plans={plans} from={start} />
          <ReplayTable plans={plans} />
          <DeliveriesTable plans={plans} />
        </>
      ) : (
        <div aria-busy className="h-60 animate-pulse rounded-[14px] bg-shore-2" />
      )}
    </Dialog>
  )
}
