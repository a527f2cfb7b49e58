import { Key, Plus, X } from 'lucide-react'
import { useDeferredValue, useState } from 'react'
import { toast } from '../state/toast'
import type { Delivery, Through, ThroughFields } from '../api/client'
import { useDelivery, useThroughPreview } from '../api/queries'
import { carryOut, told } from '../state/commands'
import { letCodesThrough } from '../state/codes'
import { PhraseField } from '../days/PhraseField'

const kinds: [ThroughFields['kind'], string, string][] = [
  ['sender', 'Sender', 'name@place.example'],
  ['domain', 'Domain', 'place.example'],
  ['words', 'Words', 'in subject or text'],
  ['project', 'Project', 'as on follow-ups'],
  ['label', 'Label', 'as on letters'],
  ['answer', 'Answers I wait for', ''],
  ['to', 'To my address', 'name@place.example'],
  ['code', 'Sign-in codes and links', ''],
]

/** What is let through at any time, and by what. */
export function ThroughList({ delivery }: { delivery: Delivery }) {
  /** The entry that is looked at; 0 for a new one. */
  const [open, setOpen] = useState<number>()
  const shown = delivery.through.find((t) => t.id === open)
  return (
    <section aria-label="Let through at any time" className="rounded-[14px] bg-paper p-4">
      <h2 className="flex items-baseline gap-2 pb-2 text-[15px] font-semibold">
        Let through at any time
        <span className="ml-auto text-[13px] font-normal text-ink-3">{delivery.through.length}</span>
      </h2>
      <ul className="flex flex-wrap gap-1.5">
        {delivery.through.map((t) => (
          <li
            key={t.id}
            className={`inline-flex max-w-full items-center gap-1 rounded-lg bg-tide-2 py-0.5 pl-2 text-[13px] font-medium text-ink ${open === t.id ? 'ring-1 ring-tide' : ''}`}
          >
            {t.key && <Key className="size-3.5 shrink-0 text-tide" aria-label="key person" />}
            <button
              className="inline-flex min-w-0 items-baseline gap-1 rounded hover:underline"
              aria-expanded={open === t.id}
              title="What it lets through, and until when"
              onClick={() => setOpen(open === t.id ? undefined : t.id)}
            >
              <span className="truncate">{t.words}</span>
              {t.until && <span className="shrink-0 text-[12px] text-ink-2">until {t.until}</span>}
            </button>
            <button
              className="grid size-6 shrink-0 place-items-center rounded-lg hover:bg-tide-3"
              aria-label={`No longer let through: ${t.words}`}
              onClick={() => void carryOut({ path: 'end-through', id: t.id, body: {} }).then(told)}
            >
              <X className="size-3.5" aria-hidden />
            </button>
          </li>
        ))}
        {!delivery.through.some((t) => t.kind === 'code') && (
          <li className="inline-flex items-center gap-1.5 rounded-lg border border-dashed border-line py-0.5 pl-2 text-[13px] text-ink-2">
            sign-in codes and links: held
            <button className="btn btn-small btn-tight !min-h-6 text-[13px]" onClick={() => letCodesThrough()}>
              Let through
            </button>
          </li>
        )}
        <li>
          <button
            className="btn btn-small btn-tight text-[13px]"
            aria-expanded={open === 0}
            onClick={() => setOpen(open === 0 ? undefined : 0)}
          >
            <Plus className="size-3.5" aria-hidden /> Add
          </button>
        </li>
      </ul>
      {(open === 0 || shown) && <Entry key={open} entry={shown} onDone={() => setOpen(undefined)} />}
      {delivery.let.length > 0 && (
        <details className="pt-2 text-[13px]">
          <summary className="cursor-pointer text-ink-2">
            {delivery.let.length === 1 ? '1 letter was' : `${delivery.let.length} letters were`} let through this week
          </summary>
          <ul>
            {delivery.let.map((l) => (
              <li key={l.letter} className="truncate py-0.5">
                <b className="font-semibold">{l.from}</b> {l.subject} <span className="text-ink-3">by {l.by}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  )
}

/** A new entry, or one of the list, whose end may change; with what it would
 * have matched. */
function Entry({ entry: was, onDone }: { entry: Through | undefined; onDone: () => void }) {
  const [kind, setKind] = useState<ThroughFields['kind']>(was?.kind ?? 'sender')
  const [value, setValue] = useState(was?.value ?? '')
  const [until, setUntil] = useState(was?.until ?? '')
  const entry: ThroughFields = { kind, value, until, key: was ? was.key : kind === 'sender' }
  const unchanged = was !== undefined && until === (was.until ?? '')
  const plain = kind === 'answer' || kind === 'code'
  const ready = plain || value.trim().length > 1
  const tried = useDeferredValue(entry)
  const { data, error } = useThroughPreview(ready ? tried : undefined)
  const { refetch } = useDelivery(0)
  const add = async () => {
    const done = await carryOut({ path: 'add-through', body: entry })
    if (!done) return
    onDone()
    const list = (await refetch()).data?.through ?? []
    const mine = list.at(-1)
    if (data && data.held > 0 && mine) {
      toast(`${data.held === 1 ? '1 letter that waits matches' : `${data.held} letters that wait match`}.`, {
        duration: 15_000,
        action: {
          label: 'Let in',
          onClick: () => void carryOut({ path: 'let-through', id: mine.id, body: {} }).then(told),
        },
      })
    } else told(done)
  }
  return (
    <form
      className="mt-3 grid gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        void add()
      }}
    >
      <div className="grid grid-cols-[auto_1fr] gap-2" hidden={was !== undefined}>
        <select
          aria-label="By"
          autoFocus={!was}
          className="field !w-auto"
          value={kind}
          onChange={(e) => setKind(e.target.value as typeof kind)}
        >
          {kinds.map(([k, words]) => (
            <option key={k} value={k}>
              {words}
            </option>
          ))}
        </select>
        {!plain && (
          <input
            aria-label="What to let through"
            className="field"
            placeholder={kinds.find(([k]) => k === kind)?.[2]}
            value={value}
            onChange={(e) => setValue(e.target.value)}
          />
        )}
      </div>
      <PhraseField
        label="Until"
        value={until}
        onChange={setUntil}
        about={{ plain: true }}
        none="for good"
        autoFocus={was !== undefined}
      />
      <div role="status" className="text-[13px] text-ink-2">
        {ready && error && <span className="text-buoy">{error.message}</span>}
        {ready && data && !error && (
          <>
            Would have let through <b>{data.matched}</b> of {data.of} letters of the past 30 days.
            {data.warning && <span className="block font-semibold text-buoy">{data.warning}</span>}
            {data.latest.length > 0 && (
              <ul className="pt-1 text-ink-3">
                {data.latest.map((l, i) => (
                  <li key={i} className="truncate">
                    {l}
                  </li>
                ))}
              </ul>
            )}
          </>
        )}
      </div>
      <div className="flex gap-2">
        <button className="btn btn-main" disabled={!ready || Boolean(error) || unchanged}>
          {was ? 'Change its end' : 'Let through'}
        </button>
        <button type="button" className="btn" onClick={onDone}>
          Cancel
        </button>
      </div>
    </form>
  )
}
