import { useNavigate } from '@tanstack/react-router'
import { FolderOpen, Mailbox, Sprout, X } from 'lucide-react'
import { useEffect, useState, type ReactNode } from 'react'
import { useBeginning, usePlanExamples } from '../api/queries'
import { decisions } from '../api/tables'
import { beginning } from '../state/beginning'
import { carryOut, told } from '../state/commands'
import { actionOf } from '../state/decisions'
import { keyName, useKeyOf, useKeys } from '../state/keys'

/** The inbox of somebody who has no letters yet: three ways to begin, each one key. */
export function FirstWays({ otherwise }: { otherwise: ReactNode }) {
  const { data } = useBeginning(true)
  if (!data) return null
  return data.letters || data.connected ? otherwise : <Ways />
}

function Ways() {
  const go = useNavigate()
  const [busy, setBusy] = useState(false)
  const look = () => {
    if (busy) return
    setBusy(true)
    void carryOut({ path: 'look-around', body: {} }).then(() => {
      beginning.set('wanted')
      setBusy(false)
    })
  }
  const ways = [
    {
      key: '1',
      icon: Mailbox,
      name: 'Connect the mail you have',
      hint: 'Your letters come from its server and stay there, too.',
      act: () => void go({ to: '/accounts', search: { connect: true } }),
    },
    {
      key: '2',
      icon: FolderOpen,
      name: 'Bring letters from files',
      hint: 'Mailboxes, folders, zips, or an archive of Ebbe.',
      act: () => void go({ to: '/files' }),
    },
    {
      key: '3',
      icon: Sprout,
      name: 'Look around first',
      hint: 'In a small made-up world that you can throw away.',
      act: look,
    },
  ] as const
  useKeys({ answer: ways[0].act, done: ways[1].act, later: ways[2].act }, 'over')
  return (
    <div className="mx-auto w-full max-w-xl px-4 py-8">
      <p className="serif !text-[30px] !leading-tight">Where are your letters?</p>
      <p className="pb-5 text-ink-2">Nothing is decided without you, and everything can be undone.</p>
      <div className="grid gap-3">
        {ways.map(({ key, icon: Icon, name, hint, act }) => (
          <button
            key={key}
            disabled={busy}
            className="flex min-h-18 items-center gap-4 rounded-[14px] border border-line-2 bg-paper px-4 py-3 text-left hover:bg-tide-3"
            onClick={act}
          >
            <Icon className="size-6 shrink-0 text-tide" aria-hidden />
            <span className="min-w-0 flex-1">
              <span className="block font-semibold">{name}</span>
              <span className="block text-[13px] text-ink-2">{hint}</span>
            </span>
            <span className="key" aria-hidden>
              {key}
            </span>
          </button>
        ))}
      </div>
    </div>
  )
}

/** What is worth knowing once one's own letters are here: how they come, how many wait, and
 * the seven keys. It is in nobody's way: put away for good, found again under the keys. */
export function FirstMinutes() {
  const wanted = beginning.use()
  const { data } = useBeginning(true)
  const over = wanted === 'by-itself' && data?.letters && data.decided
  useEffect(() => {
    if (over) beginning.set('away') // whoever has decided needs no more of it
  }, [over])
  if (!data?.letters || over) return null
  return <Steps undecided={data.undecided} decided={data.decided} planned={data.planned} madeUp={data.madeUp} />
}

function Steps(at: { undecided: number; decided: boolean; planned: boolean; madeUp: boolean }) {
  const keyOf = useKeyOf()
  const { data: examples } = usePlanExamples(!at.planned)
  const plan = examples?.[0]
  return (
    <section
      aria-label="The first minutes"
      className="mx-1 mb-2 shrink-0 rounded-[14px] border border-tide bg-tide-3 px-4 py-3 text-[14px]"
    >
      <div className="flex items-start gap-2">
        <ol className="grid min-w-0 flex-1 grid-cols-1 gap-2">
          <Step done={at.decided}>
            {at.undecided === 1 ? 'One letter waits' : `${at.undecided.toLocaleString('en')} letters wait`} for a
            decision. Seven keys decide:{' '}
            {decisions
              .filter((d) => d.deck)
              .map((d) => (
                <span key={d.kind} className="mr-2 inline-block whitespace-nowrap">
                  <span className="key !h-6 !min-w-6 text-[12px]">{keyName(keyOf(actionOf(d.kind)))}</span>{' '}
                  {d.name}{' '}
                </span>
              ))}
            <br />
            {at.decided ? (
              <>
                That was one. <span className="key !h-6 !min-w-6 text-[12px]">{keyName(keyOf('undo'))}</span> takes it
                back, and so on, step by step.
              </>
            ) : (
              <>Try one on the letter in focus: it can be taken back.</>
            )}
          </Step>
          {!at.planned && plan?.fitted && (
            <Step done={false}>
              <span className="flex flex-wrap items-center gap-2">
                <span className="min-w-56 flex-1">
                  {plan.why} Rounds at {plan.times} would leave you alone in between.
                </span>
                <button
                  className="btn btn-small"
                  onClick={() => void carryOut({ path: 'put-plan', body: { plan: plan.plan } }).then(told)}
                >
                  Take these rounds
                </button>
              </span>
            </Step>
          )}
          {at.madeUp && (
            <Step done={false}>
              <span className="flex flex-wrap items-center gap-2">
                <span className="min-w-56 flex-1">These letters are made up.</span>
                <button
                  className="btn btn-small"
                  onClick={() => void carryOut({ path: 'throw-away', body: {} }).then(told)}
                >
                  Throw them away
                </button>
              </span>
            </Step>
          )}
        </ol>
        <button
          className="btn btn-tight shrink-0"
          aria-label="Put the first minutes away; they are found again under the keys"
          onClick={() => beginning.set('away')}
        >
          <X className="size-4" aria-hidden />
        </button>
      </div>
    </section>
  )
}

function Step({ done, children }: { done: boolean; children: ReactNode }) {
  return (
    <li className="flex gap-2">
      <span className={done ? 'text-kelp' : 'text-ink-3'} aria-label={done ? 'done' : undefined}>
        {done ? '✓' : '·'}
      </span>
      <span className="min-w-0 flex-1">{children}</span>
    </li>
  )
}
