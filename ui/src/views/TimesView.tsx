import { ArrowDown, ArrowUp, X } from 'lucide-react'
import { useState } from 'react'
import type { Named, Settings } from '../api/client'
import { Link } from '@tanstack/react-router'
import { useRang, useSettings, useSpots } from '../api/queries'
import { carryOut, tellDone, told, undo, type SettingsFields } from '../state/commands'
import { useKeys } from '../state/keys'

const days = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday']

const change = (body: SettingsFields) => carryOut({ path: 'settings', body })

/** How the person's days run, what they call times, and the places they go to. */
export function TimesView() {
  const { data } = useSettings()
  useKeys({ undo: () => void undo() })
  return (
    <main className="mx-auto min-h-0 w-full max-w-3xl flex-1 overflow-y-auto px-4 pb-6" aria-label="Times and places">
      <h1 className="py-2 text-[20px] font-bold">Times and places</h1>
      {!data && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {data && (
        <>
          <Hours settings={data} />
          <Times settings={data} />
          <Places />
          <Reminders />
        </>
      )}
    </main>
  )
}

const card = 'mb-3 rounded-[14px] border border-line bg-paper p-4'

function Hours({ settings: s }: { settings: Settings }) {
  const zones = Intl.supportedValuesOf('timeZone')
  return (
    <section aria-label="Your days" className={card}>
      <h2 className="pb-3 text-[15px] font-semibold">Your days</h2>
      <div className="grid gap-3 sm:grid-cols-3">
        <Clock label="Work begins" value={s.dayStart} onKeep={(dayStart) => void change({ dayStart })} />
        <Clock label="Work ends" value={s.dayEnd} onKeep={(dayEnd) => void change({ dayEnd })} />
        <Clock label="Evening begins" value={s.evening} onKeep={(evening) => void change({ evening })} />
        <Clock label="A new day begins" value={s.dayTurn} onKeep={(dayTurn) => void change({ dayTurn })} />
        <label className="block text-[13px] text-ink-2">
          Weeks begin on
          <select
            className="field mt-1 text-[14px] text-ink"
            value={s.weekStart}
            onChange={(e) => void change({ weekStart: Number(e.target.value) })}
          >
            {[1, 0, 6].map((d) => (
              <option key={d} value={d}>
                {days[d]}
              </option>
            ))}
          </select>
        </label>
        <label className="block text-[13px] text-ink-2">
          Time zone
          <select
            className="field mt-1 text-[14px] text-ink"
            value={s.zone}
            onChange={(e) => void change({ zone: e.target.value })}
          >
            {(zones.includes(s.zone) ? zones : [s.zone, ...zones]).map((z) => (
              <option key={z}>{z}</option>
            ))}
          </select>
        </label>
      </div>
      <fieldset className="pt-4">
        <legend className="text-[13px] text-ink-2">Working days</legend>
        <div className="flex flex-wrap gap-1.5 pt-1">
          {[1, 2, 3, 4, 5, 6, 0].map((d) => {
            const on = s.workdays.includes(d)
            return (
              <button
                key={d}
                aria-pressed={on}
                className={`btn !min-h-8 ${on ? 'btn-main' : ''}`}
                onClick={() => void change({ workdays: on ? s.workdays.filter((w) => w !== d) : [...s.workdays, d] })}
              >
                {days[d]?.slice(0, 3)}
              </button>
            )
          })}
        </div>
      </fieldset>
      <div className="flex flex-wrap gap-x-6 gap-y-2 pt-3">
        <label className="flex items-center gap-2 text-[13px] text-ink-2">
          Plan with
          <select
            className="field !w-auto text-[14px] text-ink"
            value={s.share}
            onChange={(e) => void change({ share: Number(e.target.value) })}
          >
            {[25, 33, 50, 66, 75, 100].map((p) => (
              <option key={p} value={p}>
                {p} %
              </option>
            ))}
          </select>
          of the free time
        </label>
        <label className="flex items-center gap-2 text-[13px] text-ink-2">
          Letters leave
          <select
            className="field !w-auto text-[14px] text-ink"
            value={s.sendDelay}
            onChange={(e) => void change({ sendDelay: Number(e.target.value) })}
          >
            {[...new Set([0, 10, 30, 60, 300, 600, s.sendDelay])].map((n) => (
              <option key={n} value={n}>
                {n === 0
                  ? 'at once'
                  : n < 60
                    ? `after ${n} seconds`
                    : n === 60
                      ? 'after a minute'
                      : `after ${n / 60} minutes`}
              </option>
            ))}
          </select>
          and can be undone until then
        </label>
        <label className="flex items-center gap-2 text-[13px] text-ink-2">
          <input
            type="checkbox"
            className="size-4 accent-[var(--tide)]"
            checked={s.monthFirst}
            onChange={(e) => void change({ monthFirst: e.target.checked })}
          />
          3/4 is the 4th of March
        </label>
        <label className="flex items-center gap-2 text-[13px] text-ink-2">
          Someday letters:
          <select
            className="field !w-auto text-[14px] text-ink"
            aria-label="How many someday letters come up at a time"
            value={s.lookCount}
            onChange={(e) => void change({ lookCount: Number(e.target.value) })}
          >
            {[0, 3, 5, 10, 20].map((n) => (
              <option key={n} value={n}>
                {n === 0 ? 'none' : n}
              </option>
            ))}
          </select>
          come up each
          <select
            className="field !w-auto text-[14px] text-ink"
            aria-label="On which day someday letters come up"
            value={s.lookDay}
            onChange={(e) => void change({ lookDay: Number(e.target.value) })}
          >
            {[1, 2, 3, 4, 5, 6, 0].map((d) => (
              <option key={d} value={d}>
                {days[d]}
              </option>
            ))}
          </select>
        </label>
      </div>
    </section>
  )
}

function Clock(props: { label: string; value: string; onKeep: (v: string) => void }) {
  const [typed, setTyped] = useState<string>()
  const end = () => {
    if (typed && typed !== props.value) props.onKeep(typed)
    setTyped(undefined)
  }
  return (
    <label className="block text-[13px] text-ink-2">
      {props.label}
      <input
        type="time"
        className="field mt-1 text-[14px] text-ink"
        value={typed ?? props.value}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={end}
        onKeyDown={(e) => e.key === 'Enter' && end()}
      />
    </label>
  )
}

function Times({ settings }: { settings: Settings }) {
  const list: Named[] = settings.times.map(({ name, phrase, key }) => ({ name, phrase, ...(key ? { key } : {}) }))
  const keep = (times: Named[]) => change({ times })
  const put = (i: number, part: Partial<Named>) => keep(list.map((n, j) => (j === i ? { ...n, ...part } : n)))
  const swap = (i: number, j: number) => {
    const now = [...list]
    const [a, b] = [now[i], now[j]]
    if (!a || !b) return
    now[i] = b
    now[j] = a
    void keep(now)
  }
  return (
    <section aria-label="Names for times" className={card}>
      <h2 className="text-[15px] font-semibold">Names for times</h2>
      <p className="pb-3 text-[13px] text-ink-3">
        Offered wherever a time is asked for, in this order; Alt with the key takes one at once.
      </p>
      <ul>
        {settings.times.map((t, i) => (
          <li key={`${t.name}${i}`} className="flex flex-wrap items-center gap-2 border-t border-line py-2">
            <Word label={`Name of ${t.name}`} value={t.name} onKeep={(name) => put(i, { name })} wide />
            <Word label={`Meaning of ${t.name}`} value={t.phrase} onKeep={(phrase) => put(i, { phrase })} wide />
            <Word label={`Key of ${t.name}`} value={t.key ?? ''} onKeep={(key) => put(i, { key })} />
            <span className="min-w-32 flex-1 text-[13px] text-ink-2">{t.reads || 'passed for today'}</span>
            <button
              className="btn btn-tight"
              disabled={i === 0}
              aria-label={`Move ${t.name} up`}
              onClick={() => swap(i, i - 1)}
            >
              <ArrowUp className="size-4" aria-hidden />
            </button>
            <button
              className="btn btn-tight"
              disabled={i === list.length - 1}
              aria-label={`Move ${t.name} down`}
              onClick={() => swap(i, i + 1)}
            >
              <ArrowDown className="size-4" aria-hidden />
            </button>
            <button
              className="btn btn-tight"
              aria-label={`Remove ${t.name}`}
              onClick={() =>
                void keep(list.filter((_, j) => j !== i)).then((o) => o && tellDone(`Removed “${t.name}”`))
              }
            >
              <X className="size-4" aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      <AddTime onAdd={(n) => keep([...list, n])} />
    </section>
  )
}

function AddTime({ onAdd }: { onAdd: (n: Named) => Promise<unknown> }) {
  const [name, setName] = useState('')
  const [phrase, setPhrase] = useState('')
  return (
    <form
      className="flex flex-wrap items-center gap-2 border-t border-line pt-3"
      onSubmit={(e) => {
        e.preventDefault()
        void onAdd({ name, phrase }).then((o) => {
          if (!o) return
          setName('')
          setPhrase('')
        })
      }}
    >
      <input
        required
        aria-label="Name of a new time"
        placeholder="after the rounds"
        className="field !w-44"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <input
        required
        aria-label="Meaning of a new time"
        placeholder="15:10"
        className="field !w-44"
        value={phrase}
        onChange={(e) => setPhrase(e.target.value)}
      />
      <button className="btn">Add a name</button>
    </form>
  )
}

function Word(props: { label: string; value: string; wide?: boolean; onKeep: (v: string) => void }) {
  const [typed, setTyped] = useState<string>()
  const end = () => {
    if (typed !== undefined && typed.trim() !== props.value) props.onKeep(typed.trim())
    setTyped(undefined)
  }
  return (
    <input
      aria-label={props.label}
      className={`field ${props.wide ? '!w-40' : '!w-12 text-center'}`}
      placeholder={props.wide ? undefined : 'key'}
      maxLength={props.wide ? 40 : 1}
      value={typed ?? props.value}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={end}
      onKeyDown={(e) => e.key === 'Enter' && end()}
    />
  )
}

function Places() {
  const { data } = useSpots()
  const [name, setName] = useState('')
  return (
    <section aria-label="Places" className={card}>
      <h2 className="text-[15px] font-semibold">Places</h2>
      <p className="pb-3 text-[13px] text-ink-3">
        A letter can wait until you are there: “when I am at the orangery”. Say where you are in the bar.
      </p>
      <ul>
        {data?.spots.map((s) => (
          <li key={s.id} className="flex flex-wrap items-center gap-2 border-t border-line py-2">
            <Word
              label={`Name of the place ${s.name}`}
              value={s.name}
              wide
              onKeep={(now) => void carryOut({ path: 'edit-spot', id: s.id, body: { name: now } })}
            />
            <span className="flex-1 text-[13px] text-ink-2">
              {s.waiting > 0 && `${s.waiting} ${s.waiting === 1 ? 'letter waits' : 'letters wait'} for it`}
              {data.at === s.id && ' · you are here'}
            </span>
            <button
              className="btn"
              onClick={() => void carryOut({ path: 'edit-spot', id: s.id, body: { remove: true } }).then(told)}
            >
              {s.waiting > 0 ? `Remove; ${s.waiting} come back` : 'Remove'}
            </button>
          </li>
        ))}
      </ul>
      <form
        className="flex gap-2 border-t border-line pt-3"
        onSubmit={(e) => {
          e.preventDefault()
          void carryOut({ path: 'new-spot', body: { name } }).then((o) => o && setName(''))
        }}
      >
        <input
          required
          aria-label="Name of a new place"
          placeholder="the orangery"
          className="field !w-44"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button className="btn">Add a place</button>
      </form>
    </section>
  )
}

function Reminders() {
  const { data = [] } = useRang()
  return (
    <section aria-label="Reminders" className={card}>
      <h2 className="text-[15px] font-semibold">Reminders</h2>
      <p className="py-1 text-[13px] text-ink-2">
        Whether they sound or notify is said under{' '}
        <Link to="/delivery" className="text-tide underline">
          Delivery
        </Link>
        .
      </p>
      {data.length === 0 && <p className="text-[13px] text-ink-3">None has rung yet.</p>}
      <ul>
        {data.map((r) => (
          <li key={r.id} className="flex items-center gap-3 border-t border-line py-1.5">
            <span className="w-40 shrink-0 text-[13px] text-ink-2 first-letter:uppercase">{r.words}</span>
            <Link to="/follow-ups" search={{ open: r.followUp }} className="min-w-0 flex-1 truncate hover:underline">
              {r.title}
            </Link>
            {!r.seen && <span className="chip !bg-lamp-2 !text-lamp">not seen</span>}
          </li>
        ))}
      </ul>
    </section>
  )
}
