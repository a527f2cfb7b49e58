import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from '@tanstack/react-router'
import { useState } from 'react'
import { errorText, type BacklogHeap, type BacklogProgress } from '../api/client'
import { heapQuery, useBacklog } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { carryOut, told, undo } from '../state/commands'
import { failed } from '../state/failed'
import { focusOn } from '../state/focus'
import { useRowFocus, useRowKeys } from '../state/rows'
import { sittingDown } from '../state/sitting'
import { stamp } from '../state/time'

type Kind = 'done' | 'bin' | 'file'

/** The way through thousands of undecided letters: heap by heap, the largest first. */
export function BacklogView() {
  const { data, isError, error, refetch } = useBacklog()
  const client = useQueryClient()
  const [looked, setLooked] = useState<string>()
  const [busy, setBusy] = useState<string>()
  const heaps = data?.heaps ?? []
  const list = useRowFocus<BacklogHeap, string, BacklogHeap>({
    rows: heaps,
    keyOf: (h) => h.key,
    pick: (h) => h,
    single: true,
    onMove: (h) => focusOn(`heap-${h.key}`),
  })
  const { focus } = list
  const decide = async (h: BacklogHeap, kind: Kind) => {
    if (busy) return
    setBusy(h.key)
    try {
      const { on } = await client.fetchQuery(heapQuery(h.key))
      const labels = kind === 'file' && h.label ? { labels: [h.label] } : {}
      told(await carryOut({ path: 'decide', body: { kind, on, ...labels } }))
      setLooked(undefined)
    } catch (e) {
      failed(errorText(e, 'The heap could not be decided on. Nothing was done.'))
    } finally {
      setBusy(undefined)
    }
  }
  useRowKeys(list, {
    undo: () => void undo(),
    open: () => focus && setLooked(looked === focus.key ? undefined : focus.key),
    foretold: (e) => !e.repeat && focus && void decide(focus, focus.propose),
    done: () => focus && void decide(focus, 'done'),
    bin: () => focus && void decide(focus, 'bin'),
  })
  return (
    <main className="relative mx-auto min-h-0 w-full max-w-3xl flex-1 overflow-y-auto px-4 pb-6" aria-label="Backlog">
      <div className="flex flex-wrap items-center gap-2 py-2">
        <h1 className="text-[20px] font-bold">Backlog</h1>
        <span className="flex-1" />
        <span className="text-[13px] text-ink-3 max-md:hidden">
          <span className="key">J</span> <span className="key">K</span> heaps, <span className="key">Space</span> its
          letters, <span className="key">Enter</span> as proposed
        </span>
      </div>
      {isError && !data && <CouldNotRead what="The backlog" error={error} again={() => void refetch()} />}
      {!data && !isError && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {data && <Standing n={data.n} plan={data.plan} />}
      {data && data.n === 0 && (
        <p className="rounded-[14px] border border-line bg-paper p-4 text-ink-2">
          Nothing waits for a decision: there is no backlog.
        </p>
      )}
      <ol aria-label="Heaps">
        {heaps.map((h) => (
          <li
            key={h.key}
            id={`heap-${h.key}`}
            aria-current={h === focus}
            className={`mb-1.5 rounded-[14px] border bg-paper px-3 py-2 ${h === focus ? 'border-tide' : 'border-line'}`}
            onClick={() => list.focusOn(h.key)}
          >
            <div className="flex flex-wrap items-center gap-3">
              <span className="w-16 shrink-0 text-right text-[20px] font-bold">{h.n.toLocaleString()}</span>
              <span className="min-w-0 flex-1 basis-48">
                <span className="block truncate font-semibold">{h.words}</span>
                <span className="block truncate text-[13px] text-ink-3">
                  {stamp(h.oldest)} – {stamp(h.newest)}
                  {h.own && ', as you did with them'}
                </span>
              </span>
              <button
                className="btn btn-small"
                aria-expanded={looked === h.key}
                onClick={() => setLooked(looked === h.key ? undefined : h.key)}
              >
                Letters
              </button>
              <button
                className="btn btn-main btn-small"
                disabled={busy !== undefined}
                onClick={() => void decide(h, h.propose)}
              >
                {busy === h.key ? 'Deciding…' : word(h)}
              </button>
            </div>
            {looked === h.key && <Letters of={h.key} />}
          </li>
        ))}
      </ol>
      {data && data.n > 0 && (
        <section aria-label="Left for you" className="mt-3 rounded-[14px] border border-line bg-paper p-4 text-[14px]">
          {data.left > 0 && (
            <p>
              <strong>{data.left.toLocaleString()} left for you</strong>: {data.why}. They are in no heap.
            </p>
          )}
          {data.rest > 0 && <p>{data.rest.toLocaleString()} more are in no heap of three or more.</p>}
          <p className="mt-2 flex flex-wrap gap-2">
            <button className="btn btn-small" onClick={() => sittingDown.set({})}>
              Decide on them one by one
            </button>
            <Link to="/inbox" className="btn btn-small">
              The inbox
            </Link>
          </p>
        </section>
      )}
    </main>
  )
}

const word = (h: BacklogHeap) =>
  ({ done: 'Done with all', bin: 'Bin all', file: `File all under ${h.label}` })[h.propose]

/** How it stands, and how it goes over days. */
function Standing({ n, plan }: { n: number; plan?: BacklogProgress | undefined }) {
  const [share, setShare] = useState('')
  const set = (to: number) => void carryOut({ path: 'plan-backlog', body: { share: to } }).then(told)
  if (!plan)
    return n === 0 ? null : (
      <form
        className="mb-3 flex flex-wrap items-center gap-2 rounded-[14px] border border-line bg-paper p-4"
        aria-label="Over days"
        onSubmit={(e) => {
          e.preventDefault()
          set(Number(share) || Math.ceil(n / 10))
        }}
      >
        <span className="min-w-0 flex-1 basis-64">
          <strong>{n.toLocaleString()}</strong> letters wait for a decision. Not all in one day? Take a share each
          working day.
        </span>
        <input
          className="field !w-24"
          aria-label="How many each day"
          inputMode="numeric"
          placeholder={String(Math.ceil(n / 10))}
          value={share}
          onChange={(e) => setShare(e.target.value.replace(/\D/g, ''))}
        />
        <button className="btn">A day</button>
      </form>
    )
  const gone = plan.of - plan.left
  const percent = Math.round((100 * gone) / Math.max(plan.of, 1))
  return (
    <section aria-label="Progress" className="mb-3 rounded-[14px] border border-line bg-paper p-4">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <p className="flex-1">
          <strong>{plan.left.toLocaleString()}</strong> of {plan.of.toLocaleString()} are left
          {plan.cleared && <>; at this pace cleared by {plan.cleared}</>}
        </p>
        <p className={plan.today >= plan.share ? 'text-tide' : 'text-ink-2'}>
          today {plan.today.toLocaleString()} of {plan.share.toLocaleString()}
        </p>
        <button className="btn btn-small" onClick={() => set(0)}>
          No plan
        </button>
      </div>
      <div
        role="progressbar"
        aria-label="Gone"
        aria-valuenow={percent}
        aria-valuemin={0}
        aria-valuemax={100}
        className="mt-2 h-2 overflow-hidden rounded-full bg-shore-2"
      >
        <div className="h-full bg-tide" style={{ width: `${percent}%` }} />
      </div>
    </section>
  )
}

function Letters({ of }: { of: string }) {
  const { data, isError, error, refetch } = useQuery(heapQuery(of))
  if (isError && !data) return <CouldNotRead what="Its letters" error={error} again={() => void refetch()} />
  if (!data) return <div aria-busy className="mt-2 h-24 animate-pulse rounded-lg bg-shore-2" />
  return (
    <ul className="mt-2 max-h-64 overflow-y-auto border-t border-line pt-1" tabIndex={0} aria-label="Its letters">
      {data.letters.map((l) => (
        <li key={l.id} className="flex items-center gap-2 text-[13px]">
          <span className="w-28 shrink-0 truncate font-semibold">{l.from}</span>
          <Link to="/letter/$id" params={{ id: String(l.id) }} className="min-w-0 flex-1 truncate py-1.5 underline">
            {l.title}
          </Link>
          <span className="shrink-0 whitespace-nowrap text-ink-3">{stamp(l.at)}</span>
        </li>
      ))}
      {data.on.length > data.letters.length && (
        <li className="py-0.5 text-[13px] text-ink-3">and {data.on.length - data.letters.length} older ones</li>
      )}
    </ul>
  )
}
