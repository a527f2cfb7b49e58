import { ArrowDown, ArrowUp } from 'lucide-react'
import { useSearch } from '@tanstack/react-router'
import { useState } from 'react'
import type { Account } from '../api/client'
import { useAccounts } from '../api/queries'
import { AccountMark, colourNames, accountColours, accountShapes } from '../kit/Marks'
import { carryOut, told, undo, type AccountFields } from '../state/commands'
import { useKeys } from '../state/keys'
import { Away } from './Away'
import { Connection } from './Connection'

/** The person's addresses: how each signs, and by what it is told apart. */
export function AccountsView() {
  const { data = [], isPending } = useAccounts()
  const [adding, setAdding] = useState(false)
  const { connect } = useSearch({ strict: false }) as { connect?: boolean }
  useKeys({ undo: () => void undo() })
  return (
    <main className="mx-auto min-h-0 w-full max-w-3xl flex-1 overflow-y-auto px-4 pb-6" aria-label="Accounts">
      <div className="flex items-center gap-3 py-2">
        <h1 className="text-[20px] font-bold">Accounts</h1>
        <span className="text-[13px] text-ink-3">answers go from the one that was written to</span>
        <span className="flex-1" />
        <button
          className="btn max-md:hidden"
          title="The browser asks whether links to addresses open here"
          onClick={() => navigator.registerProtocolHandler('mailto', `${location.origin}/write?mailto=%s`)}
        >
          Open mail links here
        </button>
        <button className="btn" onClick={() => setAdding(true)}>
          Add an address…
        </button>
      </div>
      {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {adding && <Add onDone={() => setAdding(false)} />}
      {data.map((a, i) => (
        <Fields key={a.id} account={a} index={i} count={data.length} connect={i === 0 && connect === true} />
      ))}
    </main>
  )
}

function Add({ onDone }: { onDone: () => void }) {
  const [address, setAddress] = useState('')
  return (
    <form
      className="mb-3 flex flex-wrap items-center gap-2 rounded-[14px] border border-tide bg-paper p-4"
      onSubmit={(e) => {
        e.preventDefault()
        void carryOut({ path: 'new-account', body: { address } }).then((o) => {
          if (!o) return
          told(o)
          onDone()
        })
      }}
      onKeyDown={(e) => e.key === 'Escape' && onDone()}
    >
      <label className="flex min-w-60 flex-1 items-center gap-2">
        Address
        <input
          autoFocus
          type="email"
          required
          className="field"
          value={address}
          onChange={(e) => setAddress(e.target.value)}
        />
      </label>
      <button type="button" className="btn" onClick={onDone}>
        Cancel
      </button>
      <button className="btn btn-main">Add this account</button>
    </form>
  )
}

function Fields(props: { account: Account; index: number; count: number; connect: boolean }) {
  const { account, index, count } = props
  const change = (body: AccountFields) => carryOut({ path: 'edit-account', id: account.id, body })
  const keep = (field: 'name' | 'label' | 'signature') => (text: string) => {
    if (text.trimEnd() !== account[field]) void change({ [field]: text })
  }
  return (
    <section aria-label={account.address} className="mb-3 rounded-[14px] border border-line bg-paper p-4">
      <div className="flex items-center gap-2 pb-3">
        <AccountMark account={account} large />
        <h2 className="min-w-0 flex-1 truncate text-[15px] font-semibold">
          {account.address}
          {index === 0 && <span className="chip ml-2">new letters go from here</span>}
        </h2>
        <button
          className="btn btn-tight"
          disabled={index === 0}
          aria-label={`Move ${account.address} up`}
          onClick={() => void change({ position: index - 1 })}
        >
          <ArrowUp className="size-4" aria-hidden />
        </button>
        <button
          className="btn btn-tight"
          disabled={index === count - 1}
          aria-label={`Move ${account.address} down`}
          onClick={() => void change({ position: index + 1 })}
        >
          <ArrowDown className="size-4" aria-hidden />
        </button>
      </div>
      <div className="grid gap-3 sm:grid-cols-2">
        <Text label="Name on letters" value={account.name} onKeep={keep('name')} />
        <Text label="What you call it" value={account.label} onKeep={keep('label')} />
        <Text label="Signature" value={account.signature} onKeep={keep('signature')} long />
        <div>
          <fieldset>
            <legend className="pb-1 text-[13px] text-ink-2">Colour and shape</legend>
            <div className="flex flex-wrap gap-1.5">
              {accountColours.map((c, i) => {
                const mark = { ...account, colour: c, shape: accountShapes[i] ?? 'circle' }
                const on = account.colour === c && account.shape === mark.shape
                return (
                  <button
                    key={c}
                    aria-pressed={on}
                    aria-label={`${colourNames[c] ?? c} ${mark.shape}`}
                    title={`${colourNames[c] ?? c} ${mark.shape}`}
                    className={`grid size-9 place-items-center rounded-lg border ${on ? 'border-tide bg-tide-3' : 'border-line'}`}
                    onClick={() => void change({ colour: c, shape: mark.shape })}
                  >
                    <AccountMark account={mark} large hidden />
                  </button>
                )
              })}
            </div>
          </fieldset>
          <label className="mt-3 flex items-center gap-2 text-[14px]">
            <input
              type="checkbox"
              className="size-4 accent-[var(--tide)]"
              checked={account.markdown}
              onChange={(e) => void change({ markdown: e.target.checked })}
            />
            Write in Markdown
          </label>
          <label className="mt-2 flex items-center gap-2 text-[13px] text-ink-2">
            Letters of up to
            <select
              className="rounded-lg border border-line bg-paper px-2 py-1 text-[14px] text-ink"
              value={account.sizeLimit}
              onChange={(e) => void change({ sizeLimit: Number(e.target.value) })}
            >
              {[...new Set([10, 25, 50, 100, Math.round(account.sizeLimit / 2 ** 20)])]
                .sort((a, b) => a - b)
                .map((mb) => (
                  <option key={mb} value={mb * 2 ** 20}>
                    {mb} MB
                  </option>
                ))}
            </select>
          </label>
          {count > 1 && (
            <button className="btn mt-3" onClick={() => void change({ alive: false }).then(told)}>
              Lay this account aside
            </button>
          )}
        </div>
      </div>
      <More account={account} onKeep={change} />
      <Away account={account} />
      <Connection account={account} open={props.connect} />
    </section>
  )
}

/** What an account has beside the usual: signatures, and addresses to send as. */
function More({ account: a, onKeep }: { account: Account; onKeep: (body: AccountFields) => unknown }) {
  const [open, setOpen] = useState(false)
  const [name, setName] = useState('')
  const [as, setAs] = useState('')
  const all = a.more.map(({ name, text }) => ({ name, text }))
  if (!open)
    return (
      <button className="btn mt-3" aria-expanded={false} onClick={() => setOpen(true)}>
        {a.more.length + a.sendAs.length > 0
          ? `${a.more.length} further signatures, ${a.sendAs.length} addresses to send as`
          : 'Further signatures and addresses to send as…'}
      </button>
    )
  return (
    <div className="mt-3 grid gap-3 border-t border-line pt-3 sm:grid-cols-2">
      <section aria-label="Further signatures">
        <h3 className="pb-1 text-[13px] font-semibold">Further signatures</h3>
        {a.more.map((m, i) => (
          <div key={m.name} className="pb-2">
            <Text
              label={m.name}
              value={m.text}
              long
              onKeep={(text) => void onKeep({ more: all.map((o, j) => (j === i ? { ...o, text } : o)) })}
            />
            <button className="btn btn-small mt-1" onClick={() => void onKeep({ more: all.filter((_, j) => j !== i) })}>
              Take it away
            </button>
          </div>
        ))}
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            if (name.trim()) void onKeep({ more: [...all, { name, text: a.signature }] })
            setName('')
          }}
        >
          <input
            aria-label="Name of a new signature"
            className="field text-[14px]"
            placeholder="Name of a new one"
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <button className="btn">Add</button>
        </form>
      </section>
      <section aria-label="Addresses to send as">
        <h3 className="pb-1 text-[13px] font-semibold">Addresses to send as</h3>
        <ul>
          {a.sendAs.map((s) => (
            <li key={s.email} className="flex items-center gap-2 pb-1 text-[14px]">
              <span className="min-w-0 flex-1 truncate">
                {s.name} {s.email}
              </span>
              <button
                className="btn btn-small"
                aria-label={`Take ${s.email} away`}
                onClick={() => void onKeep({ sendAs: written(a.sendAs.filter((o) => o.email !== s.email)) })}
              >
                ×
              </button>
            </li>
          ))}
        </ul>
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            if (as.trim()) void onKeep({ sendAs: [...written(a.sendAs), as] })
            setAs('')
          }}
        >
          <input
            aria-label="New address to send as"
            className="field text-[14px]"
            placeholder="Name <address>"
            value={as}
            onChange={(e) => setAs(e.target.value)}
          />
          <button className="btn">Add</button>
        </form>
      </section>
    </div>
  )
}

const written = (list: Account['sendAs']) => list.map((s) => (s.name ? `${s.name} <${s.email}>` : s.email))

function Text(props: { label: string; value: string; long?: boolean; onKeep: (text: string) => void }) {
  const [typed, setTyped] = useState<string>()
  const shown = typed ?? props.value
  const end = () => {
    if (typed !== undefined) props.onKeep(typed)
    setTyped(undefined)
  }
  return (
    <label className="block text-[13px] text-ink-2">
      {props.label}
      {props.long ? (
        <textarea
          rows={4}
          className="field mt-1 text-[14px] text-ink"
          value={shown}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={end}
        />
      ) : (
        <input
          className="field mt-1 text-[14px] text-ink"
          value={shown}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={end}
          onKeyDown={(e) => e.key === 'Enter' && end()}
        />
      )}
    </label>
  )
}
