import type { Writing } from '../api/client'
import { useAccounts } from '../api/queries'
import { accountOf, signed, signedBy, writesFrom } from '../state/answering'
import { type } from '../state/writing'

/** From which address a letter goes, and with which signature, where there is a choice. */
export function FromRow({ w }: { w: Writing }) {
  const { data: accounts = [] } = useAccounts()
  const account = accountOf(w.from, accounts)
  if (accounts.length < 2 && (!account || account.sendAs.length + account.more.length === 0)) return null
  return (
    <div className="flex items-center gap-1 border-b border-line py-1 text-[14px]">
      <label htmlFor="from" className="w-16 shrink-0 text-ink-3">
        From
      </label>
      <select
        id="from"
        className="min-w-0 flex-1 bg-paper py-1"
        value={w.from}
        onChange={(e) => type({ from: e.target.value, text: signedBy(w.text, w.from, e.target.value) })}
      >
        {accounts.flatMap((a) =>
          writesFrom(a).map((as) => (
            <option key={as.email} value={as.email.toLowerCase()}>
              {as.name || a.name} ({as.email})
            </option>
          )),
        )}
      </select>
      {account && account.more.length > 0 && (
        <select
          aria-label="Signature"
          className="max-w-40 bg-paper py-1"
          value=""
          onChange={(e) => {
            const block = [account.block, ...account.more.map((m) => m.block ?? '')][Number(e.target.value)]
            type({ text: signed(w.text, w.from, `\n${block ?? ''}`) })
          }}
        >
          <option value="">Signature…</option>
          {['usual', ...account.more.map((m) => m.name)].map((name, i) => (
            <option key={name} value={i}>
              {name}
            </option>
          ))}
        </select>
      )}
    </div>
  )
}
