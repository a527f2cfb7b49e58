import { useState } from 'react'
import type { Writing } from '../api/client'
import { fieldsIn, filledIn } from '../state/fields'
import { type } from '../state/writing'

/** The fields that a letter still has: it goes once each is filled in. */
export function ToFillIn({ w }: { w: Writing }) {
  const open = fieldsIn(w)
  const [values, setValues] = useState<Record<string, string>>({})
  if (open.length === 0) return null
  const put = (name: string) => {
    const value = values[name]?.trim()
    if (value) type(filledIn(w, name, value))
  }
  return (
    <fieldset className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-line bg-lamp-2 px-6 py-1.5 max-md:px-4">
      <legend className="sr-only">To be filled in</legend>
      {open.map((name) => (
        <label key={name} className="flex min-w-0 items-center gap-1.5 text-[13px] text-lamp">
          <span className="font-semibold first-letter:uppercase">{name}</span>
          <input
            data-to-fill-in
            className="w-36 rounded-md border border-line bg-paper px-2 py-1 text-[14px] text-ink"
            value={values[name] ?? ''}
            onChange={(e) => setValues((was) => ({ ...was, [name]: e.target.value }))}
            onBlur={() => put(name)}
            onKeyDown={(e) => {
              if (e.key !== 'Enter' || e.ctrlKey || e.metaKey) return
              e.preventDefault()
              const fields = [...document.querySelectorAll<HTMLElement>('[data-to-fill-in]')]
              const next = fields[fields.indexOf(e.currentTarget) + 1]
              if (next) next.focus()
              else document.querySelector<HTMLElement>('[data-writing]')?.focus()
            }}
          />
        </label>
      ))}
    </fieldset>
  )
}
