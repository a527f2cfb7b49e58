import { useId, useRef, useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { api, take as answerOf } from '../api/client'
import { useSettle } from '../state/settle'

/** A field of addresses, completed from the people one has written with. */
export function AddressField({
  label,
  value,
  onChange,
  autoFocus,
  name,
  onMove,
  onTake,
}: {
  label: string
  value: string[]
  onChange: (to: string[]) => void
  autoFocus?: boolean
  /** What the field is called where one address is moved to another field. */
  name?: string
  /** Moves an address so many fields down. */
  onMove?: (one: string, by: number) => void
  /** Takes an address that was dragged from the field of that name. */
  onTake?: (one: string, from: string) => void
}) {
  const [typed, setTyped] = useState('')
  const [at, setAt] = useState(0)
  const [open, setOpen] = useState(false)
  const [trouble, setTrouble] = useState('')
  const id = useId()
  const q = typed.trim()
  const { data: people = [] } = useQuery({
    queryKey: ['people', q],
    queryFn: () => answerOf(api.GET('/api/people', { params: { query: { q } } })),
    enabled: open,
    placeholderData: (before) => before,
    staleTime: 30_000,
  })
  // What is shown may still answer an earlier key; only what fits is offered.
  const fits = (p: { name: string; email: string }) =>
    [p.email, ...p.name.split(/\s+/), p.name].some((w) => w.toLowerCase().startsWith(q.toLowerCase()))
  const offers = open
    ? people.filter((p) => p.members ?? (fits(p) && !value.some((v) => v.includes(p.email)))).slice(0, 6)
    : []
  // What can't be an address is marked: the core knows.
  const { data: read = [] } = useQuery({
    queryKey: ['addresses', value],
    queryFn: () => answerOf(api.POST('/api/addresses', { body: { text: value.join('\n') } })),
    enabled: value.length > 0,
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 60_000,
  })
  const troubleOf = (v: string) => read.find((r) => r.text === v.trim())?.trouble
  /** A list that was pasted, in any form: each address in its place. */
  const pasted = (text: string) =>
    answerOf(api.POST('/api/addresses', { body: { text } })).then(
      (list) => onChange([...value, ...list.map((a) => a.text).filter((t) => !value.includes(t))]),
      () => setTyped(text), // it stays to be taken by hand
    )
  const add = (text: string) => {
    const one = text.trim().replace(/[,;]$/, '')
    if (one) onChange([...value, one])
    setTyped('')
    setAt(0)
    setTrouble('')
  }
  /** Takes what was typed, if somebody can be reached by it. */
  const take = (): boolean => {
    const text = typed.trim()
    const wrong = value.map(troubleOf).find(Boolean)
    if (!text && wrong) setTrouble(`${wrong}. Mend it, or take it out.`)
    if (!text) return !wrong
    if (!/\S@\S/.test(text)) {
      setTrouble(`“${text}” is no address. Choose somebody, or write the address out.`)
      return false
    }
    add(text)
    return true
  }
  const field = useRef<HTMLInputElement>(null)
  useSettle(field, take)
  const takeOffer = (i: number) => {
    const p = offers[i]
    if (p?.members) {
      onChange([...value, ...p.members.filter((m) => !value.includes(m))])
      add('')
    } else if (p) add(p.name ? `${p.name} <${p.email}>` : p.email)
  }
  return (
    <div
      className="relative flex min-h-9 flex-wrap items-center gap-1 border-b border-line py-1 text-[14px]"
      onDragOver={(e) => e.dataTransfer.types.includes('application/x-ebbe-address') && e.preventDefault()}
      onDrop={(e) => {
        const data = e.dataTransfer.getData('application/x-ebbe-address')
        if (!data) return
        e.preventDefault()
        const { one, from } = JSON.parse(data) as { one: string; from: string }
        onTake?.(one, from)
      }}
    >
      <label htmlFor={id} className="w-16 shrink-0 text-ink-3">
        {label}
      </label>
      {value.map((v, i) => (
        <span
          key={`${v}${i}`}
          draggable={onMove !== undefined}
          onDragStart={(e) => {
            e.dataTransfer.setData('application/x-ebbe-address', JSON.stringify({ one: v, from: name }))
            e.dataTransfer.effectAllowed = 'move'
          }}
          className={`chip !text-[13px] ${troubleOf(v) ? '!bg-buoy-2 !text-buoy' : '!bg-tide-3'}`}
        >
          <span className="truncate" title={troubleOf(v) ?? v}>
            {v.replace(/\s*<.*>$/, '') || v}
          </span>
          <button
            type="button"
            aria-label={`Remove ${v}`}
            className="-mr-1 px-1 hover:text-buoy"
            onClick={() => onChange(value.filter((_, j) => j !== i))}
          >
            ×
          </button>
        </span>
      ))}
      <input
        ref={field}
        id={id}
        data-settles
        aria-invalid={trouble !== ''}
        aria-describedby={trouble ? `${id}-trouble` : undefined}
        role="combobox"
        aria-expanded={offers.length > 0}
        aria-controls={`${id}-list`}
        aria-activedescendant={offers.length > 0 ? `${id}-${at}` : undefined}
        autoComplete="off"
        autoFocus={autoFocus}
        className="min-w-28 flex-1 bg-transparent py-1 !outline-none"
        value={typed}
        onFocus={() => setOpen(true)}
        onBlur={() => {
          setOpen(false)
          take()
        }}
        onChange={(e) => {
          setTyped(e.target.value)
          setTrouble('')
          setAt(0)
          setOpen(true)
        }}
        onPaste={(e) => {
          const text = e.clipboardData.getData('text/plain')
          if (!/[,;\n\t]|@.*\s.*@/.test(text.trim())) return
          e.preventDefault()
          void pasted(text)
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) return // the form asks for what was typed
          const last = value.at(-1)
          if (
            e.altKey &&
            (e.key === 'ArrowDown' || e.key === 'ArrowUp') &&
            typed === '' &&
            last !== undefined &&
            onMove
          ) {
            e.preventDefault()
            onMove(last, e.key === 'ArrowDown' ? 1 : -1)
          } else if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault()
            setAt((n) => Math.min(Math.max(n + (e.key === 'ArrowDown' ? 1 : -1), 0), Math.max(offers.length - 1, 0)))
          } else if (
            (e.key === 'Enter' || e.key === 'Tab') &&
            typed.trim() &&
            offers.length > 0 &&
            !typed.includes('@')
          ) {
            e.preventDefault()
            takeOffer(at)
          } else if (e.key === 'Enter' && offers.length > 0 && !typed.trim() && value.length === 0) {
            e.preventDefault()
            takeOffer(at)
          } else if (e.key === 'Enter' && typed.trim()) {
            e.preventDefault()
            if (offers[at] && offers[at].email.startsWith(typed.trim().toLowerCase())) takeOffer(at)
            else take()
          } else if ((e.key === ',' || e.key === ';') && typed.includes('@')) {
            e.preventDefault()
            add(typed)
          } else if (e.key === 'Backspace' && typed === '' && value.length > 0) {
            onChange(value.slice(0, -1))
          } else if (e.key === 'Escape' && offers.length > 0) {
            e.stopPropagation()
            setOpen(false)
          }
        }}
      />
      {trouble && (
        <p id={`${id}-trouble`} role="alert" className="w-full pl-16 text-[13px] text-buoy">
          {trouble}
        </p>
      )}
      {offers.length > 0 && (
        <ul
          id={`${id}-list`}
          role="listbox"
          aria-label="Known people"
          className="absolute top-full left-16 z-20 w-[min(380px,80%)] rounded-[10px] border border-line bg-paper p-1 shadow-float"
        >
          {offers.map((p, i) => (
            <li
              key={p.email || `group ${p.name}`}
              id={`${id}-${i}`}
              role="option"
              aria-selected={i === at}
              className={`cursor-pointer truncate rounded-md px-2 py-1 ${i === at ? 'bg-tide-2' : 'hover:bg-shore'}`}
              onMouseDown={(e) => {
                e.preventDefault()
                takeOffer(i)
              }}
            >
              {p.name || p.email}{' '}
              {p.name && (
                <span className="text-ink-2">
                  {p.members ? `group of ${p.members.length}: ${p.members.join(', ')}` : p.email}
                </span>
              )}
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}
