import { part } from '../kit/part'
import { Bell, CalendarDays, KeyRound } from 'lucide-react'
import { useState } from 'react'
import { useNavigate } from '@tanstack/react-router'
import type { Appointment, FollowUp } from '../api/client'
import { appointing } from '../state/appointing'
import { letCodesThrough } from '../state/codes'
import { carryOut } from '../state/commands'
import { kept } from '../state/store'

const LaterDialog = part(() => import('../letters/LaterDialog').then((m) => m.LaterDialog))

/** Reminders that have come due: each can be opened, done, put off or taken
 * note of. */
export function Ringing({ ringing, alarms }: { ringing: FollowUp[]; alarms: Appointment[] }) {
  const go = useNavigate()
  const [later, setLater] = useState<FollowUp>()
  if (ringing.length === 0 && alarms.length === 0) return null
  return (
    <section aria-label="Reminders" aria-live="polite" className="mx-4 mt-2 space-y-1 max-md:mx-2">
      {ringing.slice(0, 3).map((f) => (
        <div
          key={f.id}
          className="appear flex flex-wrap items-center gap-2 rounded-[12px] bg-lamp-2 px-3 py-1.5 text-lamp"
        >
          <Bell className="size-4 shrink-0" aria-hidden />
          <span className="min-w-40 flex-1 font-semibold">
            {f.title}{' '}
            <span className="font-normal">
              reminder of {f.remind}
              {f.due && `, due ${f.due}`}
            </span>
          </span>
          <button
            className="btn btn-small text-ink"
            onClick={() => void go({ to: '/follow-ups', search: { open: f.id } })}
          >
            Open
          </button>
          <button
            className="btn btn-small text-ink"
            onClick={() => void carryOut({ path: 'edit-follow-up', id: f.id, body: { status: 'done' } })}
          >
            Done
          </button>
          <button className="btn btn-small text-ink" onClick={() => setLater(f)}>
            Later…
          </button>
          <button
            className="btn btn-small text-ink"
            onClick={() => f.reminder && void carryOut({ path: 'reminder', id: f.reminder, body: {} })}
          >
            Seen
          </button>
        </div>
      ))}
      {alarms.map((a) => (
        <div
          key={`a${a.id}`}
          className="appear flex flex-wrap items-center gap-2 rounded-[12px] bg-heather-2 px-3 py-1.5 text-heather"
        >
          <CalendarDays className="size-4 shrink-0" aria-hidden />
          <span className="min-w-40 flex-1 font-semibold">
            {a.title}{' '}
            <span className="font-normal">
              {a.words}
              {a.place && `, ${a.place}`}
            </span>
          </span>
          <button className="btn btn-small text-ink" onClick={() => appointing.set({ id: a.id })}>
            Open
          </button>
          <button
            className="btn btn-small text-ink"
            onClick={() => void carryOut({ path: 'quiet-appointment', id: a.id, body: {} })}
          >
            Seen
          </button>
        </div>
      ))}
      {ringing.length > 3 && <p className="px-3 text-[13px] text-lamp">and {ringing.length - 3} more reminders</p>}
      {later && (
        <LaterDialog
          title="Remind me again"
          hint={later.title}
          onClose={() => setLater(undefined)}
          onTake={(p) => {
            setLater(undefined)
            if (later.reminder) void carryOut({ path: 'reminder', id: later.reminder, body: { until: p.phrase } })
          }}
        />
      )}
    </section>
  )
}

/** The first letter with a code that is held asks whether such letters are let through. */
export function CodesHeld() {
  const [passed, setPassed] = useState(declined.get())
  if (passed) return null
  return (
    <section
      aria-label="A sign-in code is held"
      aria-live="polite"
      className="appear mx-4 mt-2 flex flex-wrap items-center gap-2 rounded-[12px] bg-lamp-2 px-3 py-1.5 text-lamp max-md:mx-2"
    >
      <KeyRound className="size-4 shrink-0" aria-hidden />
      <span className="min-w-40 flex-1">
        <b className="font-semibold">A letter with a sign-in code or link is held.</b> Let such letters through at any
        time?
      </span>
      <button className="btn btn-small text-ink" onClick={() => void letCodesThrough()}>
        Let through
      </button>
      <button
        className="btn btn-small text-ink"
        onClick={() => {
          declined.set(true)
          setPassed(true)
        }}
      >
        Keep holding
      </button>
    </section>
  )
}

/** Who wants them held is not asked again. */
const declined = kept('codes-held', false)
