import { useEffect, useState } from 'react'
import { api, errorText, take, type Delivery, type HoldingNote as Note } from '../api/client'
import { carryOut, told } from '../state/commands'
import { causes } from '../state/gate'
import { stamp } from '../state/time'

const kinds = ['between', 'closed', 'quiet', 'hold'] as const

/** What people are told whose letters wait: off unless a cause is chosen. */
export function HoldingNote({ delivery }: { delivery: Delivery }) {
  const [note, setNote] = useState<Note>(delivery.note)
  const [preview, setPreview] = useState<{ text?: string; trouble?: string }>()
  useEffect(() => setNote(delivery.note), [delivery.note])
  const changed = JSON.stringify(note) !== JSON.stringify(delivery.note)
  const on = note.causes.length > 0
  const show = async () => {
    try {
      setPreview({ text: (await take(api.POST('/api/holding-note/preview', { body: note }))).text })
    } catch (e) {
      setPreview({ trouble: errorText(e, 'It could not be shown.') })
    }
  }
  return (
    <section aria-label="Holding note" className="rounded-[14px] bg-paper p-4">
      <h2 className="flex items-baseline gap-2 pb-2 text-[15px] font-semibold">
        Holding note
        <span className="text-[13px] font-normal text-ink-3">{on ? '' : 'off'}</span>
        <span className="ml-auto text-[13px] font-normal text-ink-3">
          {note.days === 1 ? 'once a day' : `once in ${note.days} days`} to each person
        </span>
      </h2>
      <fieldset className="flex flex-wrap gap-x-4 gap-y-1 pb-2 text-[13px]">
        <legend className="sr-only">Sent for</legend>
        {kinds.map((k) => (
          <label key={k} className="flex min-h-7 items-center gap-1.5">
            <input
              type="checkbox"
              className="size-4 accent-[var(--tide)]"
              checked={note.causes.includes(k)}
              onChange={(e) =>
                setNote({
                  ...note,
                  causes: e.target.checked ? [...note.causes, k] : note.causes.filter((c) => c !== k),
                })
              }
            />
            {causes[k]}
          </label>
        ))}
      </fieldset>
      {(on || changed) && (
        <>
          <textarea
            aria-label="Text of the note"
            className="serif field min-h-28 !text-[15px]"
            value={note.text}
            onChange={(e) => setNote({ ...note, text: e.target.value })}
          />
          <p className="py-1 text-[12px] text-ink-3">
            {'{next round}'} and {'{other contact}'} are filled in.
          </p>
          <div className="grid grid-cols-[1fr_auto] gap-2 pb-2">
            <label className="text-[13px] text-ink-2">
              Other contact
              <input
                className="field mt-0.5 text-ink"
                value={note.contact}
                onChange={(e) => setNote({ ...note, contact: e.target.value })}
              />
            </label>
            <label className="text-[13px] text-ink-2">
              Once in days
              <input
                type="number"
                min={1}
                max={60}
                className="field mt-0.5 !w-24 text-ink"
                value={note.days}
                onChange={(e) => setNote({ ...note, days: Number(e.target.value) || 1 })}
              />
            </label>
          </div>
          <div className="flex flex-wrap gap-2">
            {changed && (
              <button
                className="btn btn-main"
                onClick={() => void carryOut({ path: 'holding-note', body: note }).then(told)}
              >
                {on ? 'Keep the note' : 'Switch it off'}
              </button>
            )}
            {changed && (
              <button className="btn" onClick={() => setNote(delivery.note)}>
                As it was
              </button>
            )}
            <button className="btn" onClick={() => void show()}>
              As they read it
            </button>
          </div>
          {preview?.trouble && (
            <p role="alert" className="pt-2 text-[13px] text-buoy">
              {preview.trouble}
            </p>
          )}
          {preview?.text && (
            <pre className="serif mt-2 rounded-lg bg-shore p-3 !text-[14px] whitespace-pre-wrap">{preview.text}</pre>
          )}
        </>
      )}
      {delivery.noted.length > 0 && (
        <details className="pt-2 text-[13px]">
          <summary className="cursor-pointer text-ink-2">Sent to {delivery.noted.length} lately</summary>
          <ul>
            {delivery.noted.map((n, i) => (
              <li key={i} className="flex gap-2 py-0.5">
                <span className="min-w-0 flex-1 truncate">{n.to}</span>
                <span className="text-ink-3">{stamp(n.at)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  )
}
