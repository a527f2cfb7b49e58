import { part } from '../kit/part'
import { Link } from '@tanstack/react-router'
import { Hand, History, Wind } from 'lucide-react'
import { ToggleGroup } from 'radix-ui'
import { useState } from 'react'
import { toast } from '../state/toast'
import type { Delivery, NextDelivery, Plan, Replay } from '../api/client'
import { useDelivery, usePlanExamples, usePlanPreview, useSettings } from '../api/queries'
import { HoldingNote } from '../delivery/HoldingNote'
import { NotificationSettings } from '../delivery/NotificationSettings'
import { PlanText } from '../delivery/PlanText'
import { ThroughList } from '../delivery/ThroughList'
import { WeekGrid } from '../delivery/WeekGrid'
import { carryOut, told, undo } from '../state/commands'
import { causes, gateShort, letIn } from '../state/gate'
import { useKeys } from '../state/keys'
import { clockOf, drafts, weekOf, type Kind } from '../state/plan'
import { inZone, serverNow } from '../state/time'

const HoldDialog = part(() => import('../delivery/HoldDialog').then((m) => m.HoldDialog))
const ReplayDialog = part(() => import('../delivery/ReplayDialog').then((m) => m.ReplayDialog))

const tools: [Kind, string][] = [
  ['rounds', 'rounds'],
  ['quiet', 'quiet hours'],
  ['closed', 'closed blocks'],
]

/** When letters may come: the week's plan, what is let through, and what is
 * ahead. */
export function DeliveryView() {
  const [account, setAccount] = useState(0)
  const { data, isError, error, refetch } = useDelivery(account)
  const { data: settings } = useSettings()
  const [tool, setTool] = useState<Kind>('closed')
  const [asking, setAsking] = useState<'hold' | 'replay'>()
  const all = drafts.use()
  const draft = all[account]
  const plan = draft ?? data?.plan.plan
  const empty = data !== undefined && !draft && data.plan.text === '' && data.past.length === 0
  useKeys({ undo: () => void undo() })
  const edit = (p: Plan | undefined) =>
    drafts.set((was) => {
      const rest = Object.fromEntries(Object.entries(was).filter(([key]) => Number(key) !== account))
      const changed = p && JSON.stringify(p) !== JSON.stringify(data?.plan.plan)
      return changed ? { ...rest, [account]: p } : rest
    })
  const now = inZone(serverNow())
  const weekStart = settings?.weekStart ?? 1
  const week = weekOf(now, weekStart)
  return (
    <main
      aria-label="Delivery"
      className="flex min-h-0 flex-1 gap-4 px-4 pb-3 max-lg:flex-col max-lg:overflow-y-auto max-md:px-2"
    >
      <div className="flex min-h-0 min-w-0 flex-1 flex-col max-lg:min-h-[560px] max-lg:flex-none">
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5 py-2">
          <h1 className="text-[20px] font-bold">Delivery</h1>
          {data && data.accounts.length > 1 && (
            <select
              aria-label="Plan of"
              className="field !w-auto !py-1"
              value={account}
              onChange={(e) => setAccount(Number(e.target.value))}
            >
              <option value={0}>All accounts</option>
              {data.accounts.map((a) => (
                <option key={a.id} value={a.id}>
                  {a.label}
                  {a.own ? ', own plan' : ''}
                </option>
              ))}
            </select>
          )}
          <ToggleGroup.Root
            type="single"
            value={tool}
            onValueChange={(k) => k && setTool(k as Kind)}
            aria-label="Drag to add"
            className="flex items-center gap-1 max-md:hidden pointer-coarse:hidden" // a finger adds from the days’ menus
          >
            <span className="text-[13px] text-ink-3 max-xl:sr-only">drag to add</span>
            {tools.map(([k, words]) => (
              <ToggleGroup.Item key={k} value={k} className="btn btn-small btn-tight data-[state=on]:!bg-tide-2">
                {words}
              </ToggleGroup.Item>
            ))}
          </ToggleGroup.Root>
          <span className="flex-1" />
          <button className="btn" disabled={!plan} onClick={() => setAsking('replay')}>
            <History className="size-4" aria-hidden /> Try the plan on last week
          </button>
        </div>
        {isError && !data && (
          <div role="alert" className="p-6 text-ink-2">
            <p className="font-semibold">The plan could not be read.</p>
            <p className="py-1">{error.message} It stays in force.</p>
            <button className="btn mt-2" onClick={() => void refetch()}>
              Try again
            </button>
          </div>
        )}
        {!data && !isError && <div aria-busy className="min-h-40 flex-1 animate-pulse rounded-[14px] bg-shore-2" />}
        {data && account !== 0 && !data.plan.own && !draft && (
          <p className="mb-2 flex flex-wrap items-center gap-3 rounded-[12px] bg-paper px-3 py-2 text-[13px] text-ink-2">
            This account follows the common plan. What you change here becomes its own.
          </p>
        )}
        {data && account !== 0 && data.plan.own && !draft && (
          <p className="mb-2 flex flex-wrap items-center gap-3 rounded-[12px] bg-paper px-3 py-2 text-[13px] text-ink-2">
            This account has its own plan.
            <button
              className="btn btn-small"
              onClick={() => void carryOut({ path: 'put-plan', body: { account } }).then(told)}
            >
              Follow the common plan again
            </button>
          </p>
        )}
        {data && draft && <Draft account={account} draft={draft} delivery={data} onEdit={edit} />}
        {empty && <Examples onTake={edit} />}
        {plan && (
          <>
            <WeekGrid
              account={account}
              plan={plan}
              tool={tool}
              weekStart={weekStart}
              today={now.getDay()}
              now={now.getHours() * 60 + now.getMinutes()}
              week={week}
              onChange={edit}
            />
            <PlanText plan={plan} account={account} onChange={edit} />
          </>
        )}
      </div>
      {data && (
        <aside
          aria-label="State and settings of delivery"
          className="relative min-h-0 w-[340px] shrink-0 space-y-2.5 overflow-y-auto pt-2 max-lg:w-full max-lg:overflow-visible"
        >
          <State delivery={data} account={account} onHold={() => setAsking('hold')} />
          <Next list={data.next} open={data.gate.open} />
          <ThroughList delivery={data} />
          <HoldingNote delivery={data} />
          <NotificationSettings notifications={data.notifications} />
          <Past delivery={data} account={account} onEdit={edit} />
        </aside>
      )}

      {asking === 'hold' && data && <HoldDialog {...data} account={account} onClose={() => setAsking(undefined)} />}
      {asking === 'replay' && plan && data && (
        <ReplayDialog plan={plan} delivery={data} account={account} onClose={() => setAsking(undefined)} />
      )}
    </main>
  )
}

function State({ delivery, account, onHold }: { delivery: Delivery; account: number; onHold: () => void }) {
  const { gate, held, early } = delivery
  const Icon = gate.open ? Wind : Hand
  return (
    <section aria-label="Now" className="rounded-[14px] bg-deep p-4 text-on-deep">
      <p className="flex items-center gap-2 text-[13px] opacity-90">
        <Icon className="size-4" aria-hidden />
        {gate.open || gate.cause === 'hold' ? causes[gate.cause] : `Held: ${causes[gate.cause].toLowerCase()}`}
        {gate.all && ', nothing is let through'}
      </p>
      <p className="py-0.5 text-[22px] leading-tight font-bold first-letter:uppercase">
        {gate.words === '' ? 'Letters come as they arrive' : gateShort(gate)}
      </p>
      <p className="text-[13px] opacity-90">
        {held === 0 ? 'nothing waits' : held === 1 ? '1 letter waits' : `${held} letters wait`}
        {early > 0 && ` · let in early ${early === 1 ? 'once' : `${early} times`} this week`}
      </p>
      {gate.accounts.map((a) => (
        <p key={a.account} className="text-[13px] opacity-90">
          {a.label}: {a.open ? 'open' : 'held'} {a.words}
        </p>
      ))}
      <div className="flex flex-wrap gap-2 pt-3">
        <button className="btn !border-transparent !bg-paper text-ink" onClick={onHold}>
          {gate.open ? 'Hold…' : 'Hold longer…'} <span className="key">H</span>
        </button>
        {(!gate.open || held > 0) && (
          <button
            className="btn !border-on-deep/50 !bg-transparent hover:!bg-on-deep/15"
            onClick={() => letIn(gate, { account })}
          >
            Let in {gate.open || gate.cause === 'hold' ? 'now' : 'early'}
          </button>
        )}
        {!gate.open && (
          <button
            className="btn !border-on-deep/50 !bg-transparent hover:!bg-on-deep/15"
            onClick={() => letIn(gate, { open: true, account })}
          >
            Open
          </button>
        )}
      </div>
    </section>
  )
}

function Next({ list, open }: { list: NextDelivery[]; open: boolean }) {
  return (
    <section aria-label="Next deliveries" className="rounded-[14px] bg-paper p-4">
      <h2 className="pb-1 text-[15px] font-semibold">
        Next {list.length > 1 ? `${list.length} deliveries` : 'delivery'}
      </h2>
      {list.length === 0 && (
        <p className="text-[13px] text-ink-2">
          {open ? 'None is planned: letters come as they arrive.' : 'None, until you let it in.'}
        </p>
      )}
      <ol>
        {list.map((d, i) => (
          <li key={d.at} className="flex gap-3 border-t border-line py-1 text-[13px] first:border-0">
            <span className="w-36 shrink-0 font-semibold first-letter:uppercase">{d.words}</span>
            <span className="text-ink-2">
              {i === 0 && d.waiting > 0 && `${d.waiting} ${d.waiting === 1 ? 'waits' : 'wait'}, `}
              about {Math.round(d.expected) + (i === 0 ? d.waiting : 0)} {i === 0 && d.waiting > 0 ? 'by then' : ''}
            </span>
          </li>
        ))}
      </ol>
    </section>
  )
}

function Past(props: { delivery: Delivery; account: number; onEdit: (p: Plan) => void }) {
  const { delivery, account } = props
  return (
    <section aria-label="Last plans" className="rounded-[14px] bg-paper p-4">
      <h2 className="pb-1 text-[15px] font-semibold">Last plans</h2>
      {delivery.past.length === 0 && <p className="text-[13px] text-ink-2">None yet: mail flows.</p>}
      <ul>
        {delivery.past.map((p) => (
          <li key={p.id} className="border-t border-line py-1.5 text-[13px] first:border-0">
            <span className="flex items-center gap-2">
              <span className="flex-1 font-medium first-letter:uppercase">{p.words}</span>
              {p.inForce ? (
                <span className="chip !bg-kelp-2 !text-kelp">in force</span>
              ) : (
                <button
                  className="btn btn-small btn-tight"
                  aria-label={`Put back the plan of ${p.words}`}
                  onClick={() => props.onEdit(p.plan)}
                >
                  Put back…
                </button>
              )}
            </span>
            <span className="line-clamp-2 text-ink-3">{p.text}</span>
          </li>
        ))}
      </ul>
      {delivery.plan.text !== '' && (account === 0 || delivery.plan.own) && (
        <button
          className="btn mt-1 btn-small"
          onClick={() =>
            void carryOut({
              path: 'put-plan',
              body: {
                account,
                plan: {
                  days: delivery.plan.plan.days.map(() => ({ rounds: [], quiet: [], closed: [] })),
                  exceptions: [],
                },
              },
            }).then(told)
          }
        >
          Remove the plan
        </button>
      )}
    </section>
  )
}

/** A draft with its effects, before it is put in force. */
function Draft(props: { account: number; draft: Plan; delivery: Delivery; onEdit: (p: Plan | undefined) => void }) {
  const { draft, account, delivery } = props
  const { data, error } = usePlanPreview(account, draft)
  const [busy, setBusy] = useState(false)
  const take = async () => {
    setBusy(true)
    const done = await carryOut({ path: 'put-plan', body: { account, plan: draft } })
    setBusy(false)
    if (!done) return
    props.onEdit(undefined)
    told(done)
  }
  const first = data?.next[0]
  return (
    <section aria-label="Draft" className="mb-2 rounded-[12px] border border-lamp/40 bg-lamp-2 px-3 py-2 text-[13px]">
      <div className="flex flex-wrap items-center gap-2">
        <b className="text-lamp">Draft, not in force yet</b>
        <span role="status" className="min-w-40 flex-1 text-ink-2">
          {error ? error.message : data ? data.problem || data.gate : 'Working out what it does…'}
          {data && !data.problem && data.gate.startsWith('Open') && first && ` Next: ${first.words}.`}
          {data && !data.problem && ` ${effects(data.replay)}`}
        </span>
        <button
          className="btn btn-main !min-h-8"
          disabled={busy || !data || Boolean(data.problem)}
          onClick={() => void take()}
        >
          Put in force
        </button>
        <button
          className="btn !min-h-8"
          onClick={() => {
            props.onEdit(undefined)
            toast('Draft thrown away', { action: { label: 'Take it back', onClick: () => props.onEdit(draft) } })
          }}
        >
          Throw away
        </button>
      </div>
      {data && data.moved.length > 0 && (
        <p className="pt-1 text-ink-2">
          {data.moved
            .slice(0, 4)
            .map(
              (m) =>
                `${m.day}’s ${clockOf(m.round)} round ${m.kind ? `of ${m.kind} ` : ''}lies in held time: it comes ${m.to}`,
            )
            .join('; ')}
          {data.moved.length > 4 && `; and ${data.moved.length - 4} more`}.
        </p>
      )}
      {delivery.plan.text !== '' && <p className="pt-1 text-ink-3">The plan before stays in force until then.</p>}
    </section>
  )
}

function effects(r: Replay): string {
  if (r.letters === 0) return ''
  const wait = r.median < 60 ? `${r.median} min` : `${(r.median / 60).toFixed(1)} h`
  return `Last week: ${r.letters} letters in ${r.deliveries.length} deliveries, half of them within ${wait}; ${r.avoided} interruptions fewer.`
}

/** Plans to start from. */
function Examples({ onTake }: { onTake: (p: Plan) => void }) {
  const { data } = usePlanExamples(true)
  return (
    <section aria-label="Plans to start from" className="mb-2">
      <p className="pb-2 text-ink-2">
        Mail flows: there is no plan yet. Start from one of these, drawn from when your mail comes, or drag over the
        week.{' '}
        <Link to="/times" className="text-tide underline">
          Your working hours
        </Link>
      </p>
      <ul className="grid gap-2 md:grid-cols-3">
        {(data ?? []).map((e) => (
          <li key={e.name} className="flex flex-col rounded-[14px] bg-paper p-3 text-[13px]">
            <b className="text-[14px]">{e.name}</b>
            <span className="text-ink-2">{e.why}</span>
            <span className="flex-1 py-1 text-ink-3">{effects(e.replay)}</span>
            <button className="btn self-start" onClick={() => onTake(e.plan)}>
              Start from it
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}
