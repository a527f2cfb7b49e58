import { useState } from 'react'
import type { Account } from '../api/client'
import { usePhrase } from '../api/queries'
import { carryOut, told } from '../state/commands'

const plain = { plain: true } as const

/** When nobody reads the letters to an account, and what is answered then. */
export function Away({ account }: { account: Account }) {
  const { away } = account
  const [open, setOpen] = useState(false)
  if (!open)
    return (
      <div className="mt-3 flex flex-wrap items-center gap-2">
        {away.set && (
          <span className={`chip ${away.on ? '!bg-lamp-2 !text-lamp' : ''}`}>
            {away.on ? 'Away' : `Away from ${away.fromWords}`}, back {away.backWords}
          </span>
        )}
        <button className="btn" aria-expanded={false} onClick={() => setOpen(true)}>
          {away.set ? 'Change the absence…' : 'Away…'}
        </button>
        {away.set && (
          <button
            className="btn"
            onClick={() => void carryOut({ path: 'absence', id: account.id, body: { off: true } }).then(told)}
          >
            I am here
          </button>
        )}
      </div>
    )
  return <Absence account={account} onDone={() => setOpen(false)} />
}

function Absence({ account, onDone }: { account: Account; onDone: () => void }) {
  const { away } = account
  const [now, setNow] = useState({
    from: away.set ? away.from : '',
    back: away.set ? away.back : '',
    text: away.text,
    contact: away.contact,
  })
  return (
    <form
      aria-label="Absence"
      className="mt-3 border-t border-line pt-3"
      onKeyDown={(e) => e.key === 'Escape' && onDone()}
      onSubmit={(e) => {
        e.preventDefault()
        void carryOut({ path: 'absence', id: account.id, body: now }).then((o) => {
          if (!o) return
          told(o)
          onDone()
        })
      }}
    >
      <div className="grid gap-3 sm:grid-cols-3">
        <When label="Away from" value={now.from} placeholder="now" onType={(from) => setNow({ ...now, from })} />
        <When
          label="Back"
          value={now.back}
          placeholder="mon 8:00"
          focused
          onType={(back) => setNow({ ...now, back })}
        />
        <label className="block text-[13px] text-ink-2">
          Other contact
          <input
            className="field mt-1 text-[14px] text-ink"
            value={now.contact}
            onChange={(e) => setNow({ ...now, contact: e.target.value })}
          />
        </label>
      </div>
      <label className="mt-2 block text-[13px] text-ink-2">
        What whoever writes is told, once a week
        <textarea
          rows={3}
          className="field mt-1 text-[14px] text-ink"
          value={now.text}
          onChange={(e) => setNow({ ...now, text: e.target.value })}
        />
      </label>
      <div className="flex justify-end gap-2 pt-2">
        <button type="button" className="btn" onClick={onDone}>
          Leave it
        </button>
        <button className="btn btn-main">Answer while I am away</button>
      </div>
    </form>
  )
}

/** A time in words, and how it is understood. */
function When(props: {
  label: string
  value: string
  placeholder: string
  focused?: boolean
  onType: (text: string) => void
}) {
  const { data } = usePhrase(props.value, plain, props.value.trim() !== '')
  return (
    <label className="block text-[13px] text-ink-2">
      {props.label}
      <input
        className="field mt-1 text-[14px] text-ink"
        autoFocus={props.focused}
        placeholder={props.placeholder}
        value={props.value}
        onChange={(e) => props.onType(e.target.value)}
      />
      <span className="block min-h-5 pt-0.5 text-ink-3">{props.value.trim() !== '' && data?.reading?.words}</span>
    </label>
  )
}
