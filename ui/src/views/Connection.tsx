import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState, type ReactNode } from 'react'
import { api, errorText, newId, take, type Account, type Remote, type ServerAt, type Tried } from '../api/client'
import { client, useRemotes, useSignIns } from '../api/queries'
import { Choice } from '../kit/Choice'
import { failed } from '../state/failed'
import { clock } from '../state/time'
import { toast } from '../state/toast'

const ways = [
  ['tls', 'TLS'],
  ['starttls', 'STARTTLS'],
  ['plain', 'in the open (this machine only)'],
] as const

const refresh = () => client.invalidateQueries({ queryKey: ['accounts'] })

/** Where the letters of an account are kept besides: its mail server. What is done there
 * and here is kept alike. */
export function Connection({ account, open }: { account: Account; open: boolean }) {
  const { data } = useRemotes()
  const [changing, setChanging] = useState(open)
  const button = useRef<HTMLButtonElement>(null)
  const remote = data?.find((r) => r.account === account.id)
  const end = () => {
    setChanging(false)
    setTimeout(() => button.current?.focus())
  }
  if (!data) return <div aria-busy className="mt-4 h-9" />
  return (
    <div className="mt-4 border-t border-line pt-3 text-[13px]" role="group" aria-label="Mail server">
      {changing ? (
        <Connect account={account} remote={remote} onDone={end} />
      ) : remote ? (
        <Connected account={account} remote={remote} onChange={() => setChanging(true)} changeRef={button} />
      ) : (
        <div className="flex flex-wrap items-center gap-3">
          <span className="flex-1 text-ink-2">
            Not connected with a mail server: only what is sent to this Ebbe comes.
          </span>
          <button ref={button} className="btn" onClick={() => setChanging(true)}>
            Connect its mail server…
          </button>
        </div>
      )}
    </div>
  )
}

/** Carries out what can't wait for another time: it holds a password, or is about now. */
async function attempt(act: () => Promise<{ title?: string } | undefined>) {
  try {
    const done = await act()
    if (done?.title) toast(done.title)
    void refresh()
    return true
  } catch (e) {
    failed(errorText(e, 'That did not work.'))
    return false
  }
}

function Connected(props: {
  account: Account
  remote: Remote
  onChange: () => void
  changeRef: React.RefObject<HTMLButtonElement | null>
}) {
  const { account, remote } = props
  const path = { params: { path: { id: account.id } } }
  const [parting, setParting] = useState(false)
  const coming = remote.here < remote.there
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        <p className="min-w-56 flex-1" aria-live="polite">
          <span className="font-semibold">{remote.incoming.host}</span>{' '}
          <span className="text-ink-2">
            {remote.paused
              ? 'is left alone. What happens on either side waits.'
              : coming
                ? `${remote.here.toLocaleString('en')} of ${remote.there.toLocaleString('en')} letters are here`
                : `and Ebbe are alike, ${remote.here.toLocaleString('en')} letters`}
            {remote.syncedAt && !coming && !remote.paused && `, as of ${clock(remote.syncedAt)}`}
            {remote.signIn && `; signed in at ${remote.signIn}`}
          </span>
        </p>
        {!remote.paused && (
          <button
            className="btn"
            onClick={() =>
              void attempt(() => take(api.POST('/api/accounts/{id}/remote/look', path)).then(() => undefined))
            }
          >
            Look now
          </button>
        )}
        <button
          className="btn"
          onClick={() =>
            void attempt(() =>
              take(
                api.POST('/api/accounts/{id}/remote/pause', {
                  ...path,
                  body: { command: newId(), paused: !remote.paused },
                }),
              ),
            )
          }
        >
          {remote.paused ? 'Go on' : 'Pause'}
        </button>
        <button className="btn" ref={props.changeRef} onClick={props.onChange}>
          Change…
        </button>
        <button className="btn" aria-expanded={parting} onClick={() => setParting(!parting)}>
          Disconnect…
        </button>
      </div>
      {coming && !remote.paused && (
        <progress
          className="mt-2 h-1.5 w-full accent-tide"
          aria-label="Letters taken in"
          value={remote.here}
          max={remote.there}
        />
      )}
      {remote.trouble && (
        <p role="status" className="mt-2 rounded-lg bg-lamp-2 px-3 py-2 text-ink">
          {remote.trouble}
        </p>
      )}
      {remote.refused.map((words) => (
        <p key={words} role="status" className="mt-2 rounded-lg bg-lamp-2 px-3 py-2 text-ink">
          The server would not do something: {words} It is asked again now and then.
        </p>
      ))}
      <div className="mt-2 grid gap-1.5">
        <Setting
          remote={remote}
          name="holds"
          what="What I hold back waits in the folder “Held” there"
          why="so that the phone is quiet too. While Ebbe isn’t running, these wait in Held."
        />
        <Setting
          remote={remote}
          name="purges"
          what="What leaves the bin here is deleted there"
          why="for good, 30 days after it was binned."
        />
      </div>
      {!remote.keepsLabels && !coming && remote.there > 0 && (
        <p className="mt-2 text-ink-2">This server keeps no labels: they stay here.</p>
      )}
      {parting && (
        <div className="mt-2 flex flex-wrap items-center gap-2 rounded-lg border border-line px-3 py-2">
          <span className="flex-1">All letters stay, here and there. Neither side learns of the other any more.</span>
          <button className="btn" onClick={() => setParting(false)}>
            Keep it
          </button>
          <button
            className="btn btn-main"
            onClick={() =>
              void attempt(() =>
                take(api.POST('/api/accounts/{id}/remote/drop', { ...path, body: { command: newId() } })),
              )
            }
          >
            Disconnect
          </button>
        </div>
      )}
    </>
  )
}

/** What a person chooses for the server. */
function Setting(props: { remote: Remote; name: 'holds' | 'purges'; what: string; why: string }) {
  const { remote, name } = props
  const { account, holds, purges } = remote
  return (
    <label className="flex items-start gap-2">
      <input
        type="checkbox"
        className="mt-0.5 size-4 shrink-0 accent-[var(--tide)]"
        checked={remote[name]}
        onChange={(e) =>
          void attempt(() =>
            take(
              api.PUT('/api/accounts/{id}/remote/settings', {
                params: { path: { id: account } },
                body: { holds, purges, [name]: e.target.checked, command: newId() },
              }),
            ).then(() => undefined),
          )
        }
      />
      <span>
        {props.what} <span className="text-ink-2">{props.why}</span>
      </span>
    </label>
  )
}

function Connect(props: { account: Account; remote?: Remote; onDone: () => void }) {
  const { account, remote } = props
  const found = useQuery({
    queryKey: ['servers', account.address],
    queryFn: () => take(api.POST('/api/servers', { body: { address: account.address } })),
    enabled: !remote,
    retry: false,
    staleTime: 60_000,
  })
  const [login, setLogin] = useState(remote?.login ?? account.address)
  const [password, setPassword] = useState('')
  const [incoming, setIncoming] = useState<ServerAt | undefined>(remote?.incoming)
  const [outgoing, setOutgoing] = useState<ServerAt | undefined>(remote?.outgoing)
  const [agreed, setAgreed] = useState(false)
  const [busy, setBusy] = useState<'try' | 'connect'>()
  const [tried, setTried] = useState<Tried>()
  const [wrong, setWrong] = useState('')
  useEffect(() => {
    setIncoming((was) => was ?? found.data?.incoming)
    setOutgoing((was) => was ?? found.data?.outgoing)
  }, [found.data])
  const foreign = found.data?.foreign
  const asked = foreign !== undefined && (incoming?.host === foreign || outgoing?.host === foreign) && !agreed
  const body = () =>
    incoming && outgoing ? { login, incoming, outgoing, ...(password ? { password } : {}) } : undefined
  const { data: signIns = [] } = useSignIns()
  const signIn = signIns.find(
    (s) => incoming && outgoing && [incoming, outgoing].every((at) => s.hosts.includes(at.host)),
  )
  const goSignIn = async () => {
    const wanted = body()
    if (!wanted || !signIn) return
    setBusy('try')
    setWrong('')
    try {
      const { url } = await take(
        api.POST('/api/accounts/{id}/remote/sign-in', {
          params: { path: { id: account.id } },
          body: { ...wanted, signIn: signIn.name, origin: location.origin },
        }),
      )
      location.assign(url)
    } catch (e) {
      setWrong(errorText(e, 'That did not work.'))
      setBusy(undefined)
    }
  }
  const act = async (what: 'try' | 'connect') => {
    const wanted = body()
    if (!wanted) return
    setBusy(what)
    setTried(undefined)
    setWrong('')
    const path = { params: { path: { id: account.id } } }
    try {
      const result = await take(api.POST('/api/accounts/{id}/remote/try', { ...path, body: wanted }))
      setTried(result)
      if (what === 'connect' && result.incoming.ok && result.outgoing.ok) {
        const done = await take(
          api.PUT('/api/accounts/{id}/remote', { ...path, body: { ...wanted, command: newId() } }),
        )
        toast(done.title)
        void refresh()
        props.onDone()
      }
    } catch (e) {
      setWrong(errorText(e, 'That did not work.'))
    }
    setBusy(undefined)
  }
  return (
    <form
      aria-label="Connect a mail server"
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault()
        void act('connect')
      }}
      onKeyDown={(e) => {
        if (e.key !== 'Escape' || e.defaultPrevented) return
        e.stopPropagation()
        props.onDone()
      }}
    >
      <div className="grid gap-3 sm:grid-cols-2">
        <label className="text-ink-2">
          Name at the server
          <input
            className="field mt-1 text-[14px] text-ink"
            required
            value={login}
            onChange={(e) => setLogin(e.target.value)}
            autoComplete="username"
          />
        </label>
        <label className="text-ink-2">
          Password, or app password
          <input
            autoFocus
            type="password"
            className="field mt-1 text-[14px] text-ink"
            required={!remote}
            placeholder={remote ? 'as it is' : ''}
            value={password}
            onChange={(e) => setPassword(e.target.value)}
            autoComplete="current-password"
          />
        </label>
      </div>
      {signIn && (
        <div className="flex flex-wrap items-center gap-x-3 gap-y-2 rounded-lg border border-line px-3 py-2">
          <span className="min-w-56 flex-1">
            {remote?.signIn
              ? `You are signed in at ${signIn.name}; no password is kept here.`
              : `Or sign in at ${signIn.name}: then no password is kept here.`}
          </span>
          <button type="button" className="btn" disabled={busy !== undefined} onClick={() => void goSignIn()}>
            {remote?.signIn ? 'Sign in once more…' : `Sign in at ${signIn.name}…`}
          </button>
        </div>
      )}
      {found.isLoading && <p className="text-ink-3">Looking for its servers…</p>}
      {found.data && !remote && (
        <p className="text-ink-3">
          {found.data.found
            ? 'These servers were found by its domain.'
            : 'Its domain names no servers; these are the likeliest.'}
        </p>
      )}
      <Server label="Reading" value={incoming} onChange={setIncoming} result={tried?.incoming} />
      <Server label="Sending" value={outgoing} onChange={setOutgoing} result={tried?.outgoing} />
      {foreign && (
        <label className="flex items-start gap-2 rounded-lg bg-lamp-2 px-3 py-2">
          <input type="checkbox" className="mt-0.5" checked={agreed} onChange={(e) => setAgreed(e.target.checked)} />
          <span>
            {foreign} is outside the domain of the address. It gets the password: tick this if you know that it is
            right.
          </span>
        </label>
      )}
      {wrong && (
        <p role="alert" className="rounded-lg bg-buoy-2 px-3 py-2">
          {wrong}
        </p>
      )}
      <div className="flex flex-wrap justify-end gap-2">
        <button type="button" className="btn" onClick={props.onDone}>
          Cancel
        </button>
        <button
          type="button"
          className="btn"
          disabled={!body() || busy !== undefined || asked}
          onClick={() => void act('try')}
        >
          {busy === 'try' ? 'Trying…' : 'Try it'}
        </button>
        <button className="btn btn-main" disabled={!body() || busy !== undefined || asked}>
          {busy === 'connect' ? 'Connecting…' : remote ? 'Save' : 'Connect'}
        </button>
      </div>
    </form>
  )
}

/** What a server that was tried does, in words. */
function offers(tried: Tried['incoming']): string {
  const out = ['works']
  if (tried.folders) out.push(`${tried.folders} folders`)
  if (tried.most) out.push(`letters up to ${Math.floor(tried.most / (1 << 20))} MB`)
  if (tried.tells) out.push('tells what becomes of them')
  return out.join(', ')
}

function Server(props: {
  label: string
  value?: ServerAt
  onChange: (s: ServerAt) => void
  result?: Tried['incoming']
}) {
  const value = props.value ?? { host: '', port: 993, security: 'tls' as const }
  const result: ReactNode = props.result?.ok ? (
    <span className="text-kelp">✓ {offers(props.result)}</span>
  ) : (
    props.result && <span className="text-buoy">✗ {props.result.reason}</span>
  )
  return (
    <fieldset className="flex flex-wrap items-end gap-2">
      <legend className="sr-only">{props.label}</legend>
      <label className="min-w-48 flex-1 text-ink-2">
        {props.label}
        <input
          className="field mt-1 text-[14px] text-ink"
          required
          value={value.host}
          onChange={(e) => props.onChange({ ...value, host: e.target.value })}
        />
      </label>
      <label className="w-24 text-ink-2">
        Port
        <input
          className="field mt-1 text-[14px] text-ink"
          type="number"
          min={1}
          max={65535}
          required
          value={value.port}
          onChange={(e) => props.onChange({ ...value, port: Number(e.target.value) })}
        />
      </label>
      <Choice
        label={`${props.label}, kept private by`}
        className="field max-w-52 text-[14px]"
        value={value.security}
        options={ways}
        onChange={(security) => props.onChange({ ...value, security })}
      />
      {result && (
        <p role="status" className="w-full">
          {result}
        </p>
      )}
    </fieldset>
  )
}
