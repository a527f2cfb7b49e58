import { useState } from 'react'
import type { Writing } from '../api/client'
import { type } from '../state/writing'
import { AddressField } from '../kit/AddressField'

const fields = [
  ['to', 'To'],
  ['cc', 'Copy'],
  ['bcc', 'Hidden'],
] as const
type Field = (typeof fields)[number][0]

/** Who gets a letter. Who stands in one field is moved to another by dragging, or by Alt and
 * an arrow key. */
export function Receivers({ w }: { w: Writing }) {
  const [more, setMore] = useState(false)
  const copies = (w.cc ?? []).length + (w.bcc ?? []).length > 0
  const shown = more || copies ? fields : fields.slice(0, 1)
  const move = (one: string, from: Field, to: Field | undefined) => {
    if (!to || from === to) return
    setMore(true)
    const list = (f: Field) => w[f] ?? []
    type({ [from]: list(from).filter((a) => a !== one), [to]: [...list(to).filter((a) => a !== one), one] })
  }
  return (
    <div className={shown.length === 1 ? 'relative [&>:first-child]:pr-24' : 'relative'}>
      {shown.map(([field, label], i) => (
        <AddressField
          key={field}
          label={label}
          name={field}
          value={w[field] ?? []}
          onChange={(list) => type({ [field]: list })}
          onMove={(one, by) => move(one, field, fields[i + by]?.[0])}
          onTake={(one, from) => move(one, from as Field, field)}
          autoFocus={field === 'to' && w.kind !== 'answer' && w.to.length === 0}
        />
      ))}
      {shown.length === 1 && (
        <button type="button" className="btn absolute top-0.5 right-0 btn-small" onClick={() => setMore(true)}>
          Copies…
        </button>
      )}
    </div>
  )
}
