import { useQuery } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { CalendarDays } from 'lucide-react'
import { useState } from 'react'
import { api, take, type Appointment } from '../api/client'
import { useProposed } from '../api/queries'
import { AddressField } from '../kit/AddressField'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { foundBy, FoundDates } from './FoundDates'
import { PhraseField } from './PhraseField'
import { appointing, closeAppointment, type Appointing } from '../state/appointing'
import { carryOut, told } from '../state/commands'

const asTime = { plain: true, as: 'appointment' } as const
const asRecurs = { plain: true, as: 'recurs' } as const

/** Makes an appointment, or shows one that is there. */
export function AppointmentDialog({ open, onClose }: { open: Appointing; onClose: () => void }) {
  const { data, error } = useQuery({
    queryKey: ['ahead', 'appointment', open.id],
    queryFn: () => take(api.GET('/api/appointments/{id}', { params: { path: { id: open.id ?? 0 } } })),
    enabled: open.id !== undefined,
    retry: false,
  })
  return (
    <Dialog
      title={open.id === undefined ? 'New appointment' : (data?.title ?? 'Appointment')}
      hint={data?.words}
      icon={<CalendarDays className="size-5 text-heather" aria-hidden />}
      onClose={onClose}
    >
      {error && <p className="text-buoy">{error.message}</p>}
      {open.id !== undefined && !data && !error && (
        <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />
      )}
      {data && !data.mine && <Theirs a={data} />}
      {(open.id === undefined || data?.mine) && <Form key={data?.id} a={data} open={open} />}
    </Dialog>
  )
}

function Form({ a, open }: { a?: Appointment; open: Appointing }) {
  const { data: proposed } = useProposed(open.conversation ?? 0)
  const typed = open.typed
  const [title, setTitle] = useState(typed?.title ?? a?.title ?? open.title ?? '')
  const [when, setWhen] = useState(typed?.when ?? a?.phrase ?? open.when ?? '')
  const [place, setPlace] = useState(typed?.place ?? a?.place ?? '')
  const [notes, setNotes] = useState(typed?.notes ?? a?.notes ?? '')
  const [to, setTo] = useState<string[]>(
    typed?.attendees ?? a?.attendees.map((x) => (x.name ? `${x.name} <${x.email}>` : x.email)) ?? [],
  )
  const [remind, setRemind] = useState(typed?.remind ?? a?.remind ?? 15)
  const [free, setFree] = useState(typed?.free ?? a?.free ?? false)
  const [recurs, setRecurs] = useState(typed?.recurs ?? '')
  const go = useNavigate()
  const keep = () => {
    if (!title.trim() || !when.trim()) return
    const body = { title, place, notes, attendees: to, remind, free, ...(!a || when !== a.phrase ? { when } : {}) }
    closeAppointment()
    void (
      a
        ? carryOut({ path: 'edit-appointment', id: a.id, body })
        : carryOut({ path: 'new-appointment', body: { ...body, recurs, conversation: open.conversation } })
    ).then((o) => {
      if (o) told(o)
      else appointing.set({ ...open, typed: { ...body, when, recurs } }) // what was typed is not lost
    })
  }
  return (
    <form
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault()
        keep()
      }}
      onKeyDown={(e) => {
        const found = a ? undefined : foundBy(e, proposed?.dates)
        if (found) setWhen(found.phrase)
      }}
    >
      <label className="grid gap-1">
        <span className="text-[13px] text-ink-2">What</span>
        <input
          className="field"
          autoFocus
          required
          maxLength={300}
          value={title}
          onChange={(e) => setTitle(e.target.value)}
        />
      </label>
      {!a && <FoundDates dates={proposed?.dates} chosen={when} onTake={setWhen} />}
      <div className="grid gap-x-3 sm:grid-cols-2">
        <PhraseField
          label="When, or from when to when"
          value={when}
          onChange={setWhen}
          about={asTime}
          none="a day alone takes the whole day"
          placeholder="fri 10 to 11:30"
          meant={a && when === a.phrase ? a.words : undefined}
        />
        <label className="grid content-start gap-1">
          <span className="text-[13px] text-ink-2">Where</span>
          <input className="field" maxLength={300} value={place} onChange={(e) => setPlace(e.target.value)} />
        </label>
      </div>
      {a ? (
        a.recurs && (
          <p className="text-[13px] text-ink-2">{ofSeries(a)} What you change here is changed for this one.</p>
        )
      ) : (
        <PhraseField
          label="Comes again"
          value={recurs}
          onChange={setRecurs}
          about={asRecurs}
          none="once"
          placeholder="every 2 weeks until 31 mar"
        />
      )}
      <AddressField label="Invite" value={to} onChange={setTo} />
      {open.invite && !to.some((t) => t.includes(open.invite ?? '')) && (
        <button
          type="button"
          className="btn btn-small justify-self-start"
          onClick={() => setTo([...to, open.invite ?? ''])}
        >
          Invite {open.invite.replace(/\s*<.*>$/, '')}
        </button>
      )}
      {a?.answers && <p className="text-[13px] text-ink-2">{a.answers}</p>}
      {a && a.attendees.some((x) => x.comment) && (
        <ul className="text-[13px] text-ink-2">
          {a.attendees
            .filter((x) => x.comment)
            .map((x) => (
              <li key={x.email}>
                {x.name || x.email}: {x.comment}
              </li>
            ))}
        </ul>
      )}
      <div className="flex flex-wrap items-center gap-4 text-[13px]">
        <label className="flex items-center gap-2">
          Remind
          <select className="field !w-auto !py-1" value={remind} onChange={(e) => setRemind(Number(e.target.value))}>
            {[...new Set([-1, 0, 5, 15, 30, 60, 120, 1440, remind])].map((m) => (
              <option key={m} value={m}>
                {m < 0
                  ? 'never'
                  : m === 0
                    ? 'at the start'
                    : m % 1440 === 0
                      ? `${m / 1440} day before`
                      : `${m} min before`}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="size-4 accent-[var(--tide)]"
            checked={free}
            onChange={(e) => setFree(e.target.checked)}
          />
          takes no time of mine
        </label>
      </div>
      <label className="grid gap-1">
        <span className="text-[13px] text-ink-2">Notes</span>
        <textarea className="field min-h-14" value={notes} onChange={(e) => setNotes(e.target.value)} />
      </label>
      {a?.clash && <p className="text-[13px] text-lamp">At that time there is also: {a.clash}</p>}
      <DialogFoot>
        {a?.conversation ? (
          <button
            type="button"
            className="btn mr-auto"
            onClick={() => {
              closeAppointment()
              void go({ to: '/letter/$id', params: { id: String(a.conversation) } })
            }}
          >
            Its letters
          </button>
        ) : null}
        {a && <OffButtons a={a} one="Call it off" all="Call all off" />}
        <button type="button" className="btn" onClick={closeAppointment}>
          Leave it <span className="key">Esc</span>
        </button>
        <button className="btn btn-main" disabled={!title.trim() || !when.trim()}>
          {a
            ? to.length > 0
              ? 'Change and tell them'
              : 'Change'
            : to.length > 0
              ? 'Make it and invite'
              : 'Make appointment'}{' '}
          <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Enter</span>
        </button>
      </DialogFoot>
    </form>
  )
}

/** An appointment that somebody else has made. */
function Theirs({ a }: { a: Appointment }) {
  const go = useNavigate()
  return (
    <div className="grid gap-2">
      <p>
        {a.words}
        {a.place && `, ${a.place}`}
      </p>
      {a.recurs && <p className="text-[13px] text-ink-2">{ofSeries(a)}</p>}
      <p className="text-[13px] text-ink-2">
        {a.organizer.name || a.organizer.email} invited you
        {a.reply && `; you said: ${a.reply}`}.{a.cancelled && ' It has been called off.'}
      </p>
      {a.notes && <p className="text-[13px] whitespace-pre-wrap text-ink-2">{a.notes}</p>}
      {a.clash && <p className="text-[13px] text-lamp">At that time there is also: {a.clash}</p>}
      <DialogFoot>
        {a.conversation ? (
          <button
            autoFocus
            className="btn btn-main"
            onClick={() => {
              closeAppointment()
              void go({ to: '/letter/$id', params: { id: String(a.conversation) } })
            }}
          >
            Open the invitation
          </button>
        ) : null}
        <OffButtons a={a} one="Take it off my calendar" all="Take all off" />
      </DialogFoot>
    </div>
  )
}

const ofSeries = (a: Appointment) => `One of a series: ${a.recurs}.`

/** Calls one off; where it is one of a series, also all that are still to come. */
function OffButtons({ a, one, all }: { a: Appointment; one: string; all: string }) {
  const off = (body: { all?: boolean }) => {
    closeAppointment()
    void carryOut({ path: 'cancel-appointment', id: a.id, body }).then(told)
  }
  return (
    <>
      <button type="button" className="btn" onClick={() => off({})}>
        {a.recurs ? one.replace(' it', ' this one') : one}
      </button>
      {a.recurs && (
        <button type="button" className="btn" onClick={() => off({ all: true })}>
          {all}
        </button>
      )}
    </>
  )
}
