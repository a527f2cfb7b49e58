import { useEffect, useId, useRef, useState, type ReactNode } from 'react'
import type { DayLoad, Proposal } from '../api/client'
import { usePhrase, type PhraseFor } from '../api/queries'
import { LoadStrip } from './LoadStrip'

/** Wherever a time is asked for: reads the phrase as it is typed, shows what
 * it means, and offers a few times. Keys alone do: type, arrows or Alt+digit,
 * Enter. */
export function PhraseBox(props: {
  label: string
  initial?: string
  /** Offered before the computed ones, such as the old time. */
  first?: Proposal[]
  placeholder?: string
  /** Leaves the focus to something else in the dialog. */
  quiet?: boolean
  /** What the time is for; only a time is asked for without it. */
  about?: PhraseFor
  onTake: (p: Proposal) => void
  children?: ReactNode
}) {
  const [typed, setTyped] = useState(props.initial ?? '')
  const [at, setAt] = useState(0)
  const list = useId()
  const field = useRef<HTMLInputElement>(null)
  const { data, isFetching, isPlaceholderData } = usePhrase(typed.trim(), props.about ?? { plain: true })
  const reading = typed.trim() ? data?.reading : undefined
  const offers = [...(reading ? [reading] : []), ...(props.first ?? []), ...(data?.proposals ?? [])].filter(
    (p, i, all) => all.findIndex((o) => o.phrase === p.phrase) === i,
  )
  useEffect(() => setAt(0), [typed])
  const { quiet } = props
  useEffect(() => {
    if (!quiet) field.current?.select()
  }, [quiet])
  useEffect(() => {
    document.getElementById(`${list}-${at}`)?.scrollIntoView({ block: 'nearest' })
  }, [list, at])
  const trouble = typed.trim() && !isPlaceholderData ? data?.trouble : undefined
  // What was typed must be understood before it is taken; never an older reading.
  const settled = !isPlaceholderData && !(isFetching && !data)

  const take = (p: Proposal | undefined) => {
    if (p && (p !== reading || settled)) props.onTake(p)
  }
  // Enter before it is understood is kept until it is.
  const [wanted, setWanted] = useState(false)
  const { onTake } = props
  useEffect(() => {
    if (!wanted || !settled) return
    setWanted(false)
    if (reading) onTake(reading)
  }, [wanted, settled, reading, onTake])
  const pickDay = (d: DayLoad) => {
    setTyped(d.date)
    field.current?.focus()
  }
  return (
    <div
      className="flex min-h-0 flex-col"
      onKeyDown={(e) => {
        if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
          e.preventDefault()
          setAt((n) => Math.min(Math.max(n + (e.key === 'ArrowDown' ? 1 : -1), 0), offers.length - 1))
        } else if (e.key === 'Enter' && e.target === field.current) {
          e.preventDefault()
          if (typed.trim() && at === 0 && (!reading || !settled)) return setWanted(true)
          take(offers[at])
        } else if (e.altKey && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) {
          // The time in focus moves along the day line: a quarter of an hour, with Shift a day.
          const from = offers[at]?.at
          if (!from) return
          e.preventDefault()
          const by = (e.shiftKey ? 24 * 60 : 15) * (e.key === 'ArrowLeft' ? -1 : 1)
          setTyped(new Date(new Date(from).getTime() + by * 60_000).toISOString().slice(0, 16) + 'Z')
        } else if (e.altKey && /^Digit[1-9]$/.test(e.code)) {
          e.preventDefault()
          take(offers[Number(e.code.slice(5)) - 1])
        } else if (e.altKey && e.key.length === 1) {
          const own = offers.find((p) => p.key && p.key === e.key.toLowerCase())
          if (own) {
            e.preventDefault()
            take(own)
          }
        }
      }}
    >
      <input
        ref={field}
        autoFocus={!props.quiet}
        role="combobox"
        aria-label={props.label}
        aria-expanded
        aria-controls={list}
        aria-activedescendant={offers[at] ? `${list}-${at}` : undefined}
        aria-invalid={trouble !== undefined}
        autoComplete="off"
        spellCheck={false}
        className="field shrink-0 border-2 border-tide text-[16px] outline-none"
        placeholder={props.placeholder ?? 'Try “fri 2pm”, “3d”, “end of month”'}
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value)
          setWanted(false)
        }}
      />
      <p className="min-h-6 shrink-0 pt-1 text-[13px] text-buoy" aria-live="polite">
        {trouble}
        {!trouble && reading?.over && reading.why}
      </p>
      {data && data.days.length > 0 && <LoadStrip days={data.days} chosen={offers[at]?.day} onPick={pickDay} />}
      <ul id={list} role="listbox" aria-label="Times" className="-mx-2 min-h-0 overflow-y-auto">
        {offers.map((p, i) => (
          <li
            key={p.phrase}
            id={`${list}-${i}`}
            role="option"
            aria-selected={i === at}
            className={`flex cursor-pointer items-center gap-3 rounded-lg px-2 py-1.5 ${i === at ? 'bg-tide-2' : 'hover:bg-shore'}`}
            onMouseDown={(e) => e.preventDefault()}
            onClick={() => take(p)}
          >
            <span className="key shrink-0 !min-w-10">
              {p.key ? `Alt ${p.key.toUpperCase()}` : i < 9 ? `Alt ${i + 1}` : ''}
            </span>
            <span className="min-w-0">
              <span className="block truncate font-semibold first-letter:uppercase">{p.words}</span>
              <span className={`block truncate text-[13px] ${p.over ? 'text-buoy' : 'text-ink-2'}`}>
                {p === reading ? 'what you typed' : p.label}
                {p.why && ` · ${p.why}`}
              </span>
            </span>
          </li>
        ))}
      </ul>
      {props.children}
    </div>
  )
}
