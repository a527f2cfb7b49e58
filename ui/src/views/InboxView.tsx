import { Link } from '@tanstack/react-router'
import { keyName } from '../state/keys'
import { part } from '../kit/part'
import { useState } from 'react'
import type { CatchUp } from '../api/client'
import { useDay, useOverview, useAccounts, useCatchUp } from '../api/queries'
import { onlyAccount } from '../state/narrowed'
import { beginning } from '../state/beginning'
import { own } from '../state/mine'
import { kept } from '../state/store'
import { age, clock } from '../state/time'
import { undo } from '../state/commands'
import { Choice } from '../kit/Choice'
import { grouping } from '../state/grouping'
import { Replies } from '../letters/Replies'
import { GroupChoice } from './GroupChoice'
import { MailView } from './MailView'

const oldestFirst = kept('oldest-first', false)
/** The catch-up that was looked at, by when it began. */
const caughtUp = own('caught-up', '')
/** Fetched only for who has just begun, or wants to see it again. */
const FirstMinutes = part(() => import('./Beginning').then((m) => m.FirstMinutes))
const FirstWays = part(() => import('./Beginning').then((m) => m.FirstWays))
const GroupedView = part(() => import('./GroupedView').then((m) => m.GroupedView))
const CatchUpDialog = part(() => import('../letters/CatchUpDialog').then((m) => m.CatchUpDialog))

/** Opens by itself after a long time away, or when much has come at once. */
function CatchingUp() {
  const { data } = useCatchUp()
  const seen = caughtUp.use()
  const [open, setOpen] = useState<CatchUp>()
  const shown = open ?? (data?.due && data.since !== seen ? data : undefined)
  if (!shown) return null
  if (!open) setOpen(shown)
  return (
    <CatchUpDialog
      catchUp={shown}
      away={`you were here ${age(shown.since)} ago`}
      onClose={() => {
        caughtUp.set(shown.since)
        setOpen(undefined)
      }}
    />
  )
}

export function InboxView() {
  const oldest = oldestFirst.use()
  const only = onlyAccount.use()
  const first = beginning.use()
  const { data: overview } = useOverview()
  const { data: accounts = [] } = useAccounts()
  const by = grouping.use().inbox
  if (by)
    return (
      <>
        <CatchingUp />
        <GroupedView
          key={by}
          ask={{ place: 'inbox', by, account: only }}
          head={
            <div className="flex h-12 shrink-0 items-center gap-2 px-2">
              <h1 className="text-[15px] font-semibold">Inbox</h1>
              <span className="flex-1" />
              <GroupChoice place="inbox" />
            </div>
          }
          empty={<Zero />}
        />
      </>
    )
  return (
    <>
      <CatchingUp />
      <MailView
        key={only}
        list={{ name: 'inbox', oldest, account: only || undefined }}
        staff
        empty={
          only ? (
            <p className="p-6 text-ink-2">Nothing in the inbox of this account.</p>
          ) : (
            <FirstWays otherwise={<Zero />} />
          )
        }
        head={(listing) => (
          <>
            {/* Where bars are low, the answers to invitations stand in the same line. */}
            <div className="shrink-0 low:flex low:items-center low:gap-2 low:px-1 low:pb-0.5">
              <div className="flex h-12 items-center gap-2 px-2 low:h-7 low:min-w-0 low:flex-1 low:px-0">
                <h1 className="text-[15px] font-semibold max-md:sr-only">Inbox</h1>
                <span className="chip shrink-0 max-md:hidden">
                  {listing.rows.filter((r) => r.unread && !r.group.kind).length} unread
                </span>
                <span className="flex-1 max-md:hidden" />
                {accounts.length > 1 && (
                  <Choice
                    label="Account"
                    className="btn btn-small min-w-0 btn-tight text-[13px] !font-normal"
                    value={String(only)}
                    options={[['0', 'All accounts'], ...accounts.map((a) => [String(a.id), a.label] as const)]}
                    onChange={(v) => onlyAccount.set(Number(v))}
                  />
                )}
                <GroupChoice place="inbox" />
                <button
                  className="btn btn-small shrink-0 btn-tight text-[13px] whitespace-nowrap"
                  onClick={() => oldestFirst.set(!oldest)}
                  title="Change the order"
                >
                  <span>
                    {oldest ? 'Oldest' : 'Newest'} <span className="max-md:sr-only">first</span>
                  </span>
                </button>
                {overview && overview.held > 0 && (
                  <span className="chip shrink-0 !bg-lamp-2 !text-lamp low:hidden">{overview.held} held</span>
                )}
              </div>
              <Replies listing={listing} />
            </div>
            {overview?.backlog && (
              <Link
                to="/backlog"
                className="mx-2 mb-1 flex items-center gap-2 rounded-lg bg-tide-3 px-3 py-1.5 text-[14px]"
              >
                <span className="min-w-0 flex-1">{overview.inbox.toLocaleString()} wait: through them in heaps</span>
                <span className="key">{keyName('v h')}</span>
              </Link>
            )}
            {first !== 'away' && <FirstMinutes />}
          </>
        )}
      />
    </>
  )
}

const said = {
  return: 'comes back',
  limit: 'waiting',
  reminder: 'reminder',
  due: 'due',
  appointment: 'appointment',
  send: 'leaves',
} as const

/** Zero: low water, what was decided today, and what comes next. */
function Zero() {
  const { data: overview } = useOverview()
  const { data: day } = useDay()
  const next = [...(day?.marks ?? [])].filter((m) => m.at && new Date(m.at) > new Date(day?.now ?? 0))
  const decisions = day?.decisions ?? []
  const again = overview?.zeros.slice(1) ?? []
  return (
    <div className="min-h-0 flex-1 overflow-y-auto px-3 pb-6" role="status">
      <p className="serif pt-4 !text-[30px] !leading-tight">
        {overview?.lowWater ? `Low water ${clock(overview.lowWater)}` : 'The inbox is empty'}
      </p>
      <p className="pb-4 text-ink-2">
        Nothing waits for a decision.
        {again.length > 0 && ` Empty again at ${again.map((z) => clock(z)).join(', ')}.`}
        {overview && overview.held > 0 && ` ${overview.held} held outside.`}
      </p>
      <h2 className="border-b border-line pb-1 text-[13px] font-semibold text-ink-2">Next</h2>
      {next.length === 0 && <p className="py-2 text-ink-3">Nothing more today.</p>}
      {next.slice(0, 6).map((m) => (
        <p key={`${m.kind}${m.title}${m.at}`} className="flex gap-3 border-b border-line py-1.5">
          <span className="w-12 shrink-0 font-semibold">{clock(m.at ?? '')}</span>
          <span className="min-w-0 flex-1 truncate">{m.title}</span>
          <span className="chip">{said[m.kind]}</span>
        </p>
      ))}
      <h2 className="border-b border-line pt-5 pb-1 text-[13px] font-semibold text-ink-2">
        Decided today <span className="font-normal text-ink-3">{decisions.length}</span>
      </h2>
      {decisions.slice(0, 40).map((d) => (
        <p key={d.entry} className="group flex items-center gap-3 border-b border-line py-1">
          <span className="w-12 shrink-0 text-ink-3">{clock(d.at)}</span>
          <span className="min-w-0 flex-1 truncate">{d.title}</span>
          <button
            className="btn !min-h-6 btn-tight text-[12px]"
            aria-label={`Undo: ${d.title}`}
            onClick={() => void undo(d.entry)}
          >
            Undo
          </button>
        </p>
      ))}
    </div>
  )
}
