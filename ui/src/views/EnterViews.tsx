import { useState, type ReactNode } from 'react'
import { api, errorText, take, type Session } from '../api/client'
import { Wordmark } from '../kit/Wordmark'

function Card({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main className="grid min-h-full place-items-center p-4">
      <div className="w-full max-w-[420px] rounded-[14px] border border-line bg-paper p-8">
        <Wordmark />
        <h1 className="serif mt-6 mb-4 !text-[26px] !leading-tight">{title}</h1>
        {children}
      </div>
    </main>
  )
}

function useTry(done: (s: Session) => void) {
  const [trouble, setTrouble] = useState('')
  const [busy, setBusy] = useState(false)
  const attempt = async (call: () => Promise<Session>) => {
    setBusy(true)
    setTrouble('')
    try {
      done(await call())
    } catch (e) {
      setTrouble(errorText(e, 'That did not work.'))
    }
    setBusy(false)
  }
  return { trouble, busy, attempt }
}

/** Signs in: in the demo with one click, otherwise with a password. */
export function SignIn({ session, onDone }: { session: Session; onDone: (s: Session) => void }) {
  const { trouble, busy, attempt } = useTry(onDone)
  const [name, setName] = useState('')
  const [password, setPassword] = useState('')
  const body = { name, password }
  return (
    <Card title={session.demo ? 'Good morning. Who are you today?' : 'Sign in'}>
      {session.people.map((p) => (
        <button
          key={p.id}
          autoFocus
          className="btn btn-main mb-2 w-full !min-h-11"
          disabled={busy}
          onClick={() => void attempt(() => take(api.POST('/api/session', { body: { person: p.id } })))}
        >
          Enter as {p.name}
        </button>
      ))}
      {!session.demo && (
        <form
          className="grid gap-3"
          onSubmit={(e) => {
            e.preventDefault()
            void attempt(() => take(api.POST('/api/session', { body })))
          }}
        >
          <Field label="Address" type="email" autoComplete="username" value={name} onChange={setName} autoFocus />
          <Field
            label="Password"
            type="password"
            autoComplete="current-password"
            value={password}
            onChange={setPassword}
          />
          <button className="btn btn-main !min-h-10" disabled={busy}>
            Sign in
          </button>
        </form>
      )}
      <p role="alert" className="pt-2 text-buoy empty:hidden">
        {trouble}
      </p>
    </Card>
  )
}

/** The first run: makes the owner. */
export function SetUp({ onDone }: { onDone: (s: Session) => void }) {
  const { trouble, busy, attempt } = useTry(onDone)
  const [name, setName] = useState('')
  const [address, setAddress] = useState('')
  const [password, setPassword] = useState('')
  const body = { name, address, password, zone: Intl.DateTimeFormat().resolvedOptions().timeZone }
  return (
    <Card title="Welcome. This Ebbe will be yours.">
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault()
          void attempt(() => take(api.POST('/api/setup', { body })))
        }}
      >
        <Field label="Your name" autoComplete="name" value={name} onChange={setName} autoFocus />
        <Field label="Your mail address" type="email" autoComplete="email" value={address} onChange={setAddress} />
        <Field
          label="A password, ten characters or more"
          type="password"
          autoComplete="new-password"
          value={password}
          onChange={setPassword}
          min={10}
        />
        <p className="text-[13px] text-ink-3">Days and times follow your zone, {body.zone}.</p>
        <button className="btn btn-main !min-h-10" disabled={busy}>
          Begin
        </button>
        <p role="alert" className="text-buoy empty:hidden">
          {trouble}
        </p>
      </form>
    </Card>
  )
}

function Field(props: {
  label: string
  value: string
  onChange: (v: string) => void
  type?: string
  autoComplete: string
  autoFocus?: boolean
  min?: number
}) {
  return (
    <label className="grid gap-1">
      <span className="text-[13px] text-ink-2">{props.label}</span>
      <input
        className="field"
        required
        type={props.type ?? 'text'}
        minLength={props.min}
        autoComplete={props.autoComplete}
        autoFocus={props.autoFocus}
        value={props.value}
        onChange={(e) => props.onChange(e.target.value)}
      />
    </label>
  )
}
