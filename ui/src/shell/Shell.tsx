import { part } from '../kit/part'
import { Outlet, useLocation, useNavigate } from '@tanstack/react-router'
import { useEffect, useState, type DragEvent } from 'react'
import { api, take, type Session } from '../api/client'
import { client, useOverview } from '../api/queries'
import { useLive } from '../state/live'
import { Bar } from './Bar'
import { DayLine } from '../days/DayLine'
import { useGateClock } from '../state/gate'
import { useNotices } from '../state/ring'
import { again } from '../state/again'
import { attach } from '../state/attaching'
import { appointing, closeAppointment } from '../state/appointing'
import { startNew } from '../state/answering'
import { capturing } from '../state/capturing'
import { carryOut, redo, resend, told, useQueued } from '../state/commands'
import { useEveningSheet } from '../state/evening'
import { handleKey, useKeys } from '../state/keys'
import { chosen, filesOf } from '../state/files'
import { afterPaint } from '../state/paint'
import { useOnline } from '../state/online'
import { useCounted } from '../state/counted'
import { readyQuery } from '../state/ready'
import { giveFocus, isWriting } from '../state/focus'
import { goings, viewName } from '../state/viewing'
import { spoken } from '../state/spoken'
import { onlyAccount } from '../state/narrowed'
import { save } from '../state/writing'
import { failed } from '../state/failed'
import { sittingDown } from '../state/sitting'

const CaptureDialog = part(() => import('../followups/CaptureDialog').then((m) => m.CaptureDialog))
const OnlyDialog = part(() => import('./OnlyDialog').then((m) => m.OnlyDialog))
const HoldDialog = part(() => import('../delivery/HoldDialog').then((m) => m.HoldDialog))
const AgainDialog = part(() => import('../letters/AgainDialog').then((m) => m.AgainDialog))
const AppointmentDialog = part(() => import('../days/AppointmentDialog').then((m) => m.AppointmentDialog))
const Ringing = part(() => import('./Ringing').then((m) => m.Ringing))
const CodesHeld = part(() => import('./Ringing').then((m) => m.CodesHeld))
const Troubles = part(() => import('./Troubles').then((m) => m.Troubles))
const DemoBar = part(() => import('./DemoBar').then((m) => m.DemoBar), <div className="h-6 bg-deep" />)
const BeginDialog = part(() => import('../sitting/BeginDialog').then((m) => m.BeginDialog))
const KeysDialog = part(() => import('./KeysDialog').then((m) => m.KeysDialog))

/** Fetches what would otherwise be fetched when it is first opened. */
const fetchDialogs = () =>
  Promise.allSettled([
    import('../letters/LaterDialog'),
    import('../letters/LabelDialog'),
    import('../followups/FollowUpDialog'),
    import('../days/PhraseDialog'),
    import('../followups/CaptureDialog'),
    import('../letters/Composer'),
  ])

/** Says aloud what is said in words only to those who listen. */
function Spoken() {
  const text = spoken.use()
  return (
    <p aria-live="polite" className="sr-only" data-spoken>
      {text}
    </p>
  )
}

/** What stands around every view. */
export function Shell({ session, onSignOut }: { session: Session; onSignOut: () => void }) {
  const { data, isError } = useOverview()
  const overview = useCounted(data)
  const [asking, setAsking] = useState<'hold' | 'keys' | 'capture' | 'only'>()
  const go = useNavigate()
  const path = useLocation({ select: (l) => l.pathname })
  const online = useOnline()
  const queued = useQueued()
  const appointment = appointing.use()
  const [asked] = again.use()
  const capture = capturing.use()
  const sits = path === '/sitting'
  const begin = sittingDown.use()
  useLive(true)
  useEffect(() => {
    addEventListener('keydown', handleKey)
    void resend() // what the last visit could not send
    void save()
    // What is decided with must be here also when the server is not.
    const forgetReady = afterPaint(() => void client.prefetchQuery(readyQuery))
    const ahead = setTimeout(() => void fetchDialogs(), 1500)
    return () => {
      forgetReady()
      clearTimeout(ahead)
      removeEventListener('keydown', handleKey)
    }
  }, [])
  const name = viewName(path)
  useNotices(overview, name === 'Inbox' ? '' : name)
  useGateClock(overview)
  useEveningSheet(overview, path, () => void go({ to: '/day-sheet' }))
  useKeys(
    {
      redo: () => void redo(),
      compose: () => {
        startNew(onlyAccount.get())
        if (path !== '/inbox') void go({ to: '/inbox' })
      },
      capture: () => setAsking('capture'),
      work: () => void go({ to: '/work' }),
      sit: () => sittingDown.set({}),
      appoint: () => appointing.set({}),
      hold: () => setAsking('hold'),
      help: () => setAsking('keys'),
      only: () => setAsking('only'),
      ...Object.fromEntries(goings.map(([action, name]) => [action, () => void go({ to: `/${name}` })])),
    },
    'beneath',
  )
  // Files dropped anywhere are letters to be imported; where they go is asked.
  const drop = (e: DragEvent) => {
    if (!e.dataTransfer.types.includes('Files')) return
    e.preventDefault()
    if (e.type !== 'drop') return
    const writing = isWriting() // nothing is opened over what is being written
    void filesOf(e.dataTransfer).then((files) => {
      if (writing) return void attach(files)
      chosen.set(files)
      void go({ to: '/files' })
    })
  }
  const signOut = () =>
    void take(api.DELETE('/api/session')).then(onSignOut, () => failed('Signing out did not work. Try again.'))
  return (
    <div className="flex h-full flex-col short:h-auto short:min-h-full" onDragOver={drop} onDrop={drop}>
      <a
        href="#list"
        className="btn sr-only focus:not-sr-only focus:absolute focus:top-1 focus:left-1 focus:z-50"
        onClick={(e) => {
          e.preventDefault()
          giveFocus()
        }}
      >
        To the list
      </a>
      <Spoken />
      {session.demo && <DemoBar overview={overview} />}
      {/* A sitting has the whole screen. */}
      {!sits && (
        <>
          <Bar
            overview={overview}
            session={session}
            onHold={() => setAsking('hold')}
            onKeys={() => setAsking('keys')}
            onSignOut={signOut}
          />
          {path !== '/day-sheet' && <DayLine />}
        </>
      )}
      {(!online || queued > 3) && (
        <p role="status" className="mx-4 mt-2 rounded-[12px] bg-lamp-2 px-3 py-1.5 text-lamp">
          {online ? 'Sending' : 'Ebbe can’t be reached.'}{' '}
          {queued > 0
            ? `${queued} ${queued === 1 ? 'decision waits' : 'decisions wait'} in this page and will be sent in order.`
            : 'Reading goes on; nothing is lost.'}
        </p>
      )}
      {isError && !overview && (
        <p role="alert" className="mx-4 mt-2 rounded-[12px] bg-buoy-2 px-3 py-1.5 text-buoy">
          The state of your day could not be read. Trying again.
        </p>
      )}
      {overview?.gate.asks && (
        <p role="status" className="mx-4 mt-2 flex items-center gap-3 rounded-[12px] bg-lamp-2 px-3 py-1.5 text-lamp">
          Delivery has been held for over twelve hours. Is that still meant?
          <button
            className="btn btn-small text-ink"
            onClick={() => void carryOut({ path: 'let-in', body: { open: true } })}
          >
            Let in and open
          </button>
        </p>
      )}

      {overview && overview.ringing.length + overview.alarms.length > 0 && (
        <Ringing ringing={overview.ringing} alarms={overview.alarms} />
      )}
      {overview?.codes && <CodesHeld />}
      {overview && overview.troubles.length > 0 && <Troubles troubles={overview.troubles} />}

      <div className="flex min-h-0 flex-1 flex-col pt-2 low:pt-0.5 short:h-[520px] short:flex-none">
        <Outlet />
      </div>

      {asking === 'hold' && overview && <HoldDialog {...overview} onClose={() => setAsking(undefined)} />}
      {appointment && <AppointmentDialog key={appointment.id ?? 'new'} open={appointment} onClose={closeAppointment} />}
      {asked && (
        <AgainDialog
          key={asked.reason}
          asked={asked}
          onClose={() => again.set((was) => was.filter((a) => a !== asked))}
        />
      )}
      {begin && (
        <BeginDialog
          heap={begin.heap}
          onClose={() => sittingDown.set(undefined)}
          onBegun={() => void go({ to: '/sitting' })}
        />
      )}
      {asking === 'only' && <OnlyDialog onClose={() => setAsking(undefined)} />}
      {asking === 'keys' && <KeysDialog onClose={() => setAsking(undefined)} />}
      {capture && (
        <CaptureDialog
          onClose={() => capturing.set(undefined)}
          onTake={(line) => {
            capturing.set(undefined)
            capture.take(line)
          }}
        />
      )}
      {asking === 'capture' && (
        <CaptureDialog
          onClose={() => setAsking(undefined)}
          onTake={(line) => {
            setAsking(undefined)
            void carryOut({ path: 'capture-follow-up', body: { line } }).then(told)
          }}
        />
      )}
    </div>
  )
}
