import { useEffect, useId, useRef, useState, type ReactNode } from 'react'
import type { DayLoad, Proposal } from '../api/client'
import type { PhraseFor } from '../api/queries'
import { usePhrasing } from '../state/phrasing'
import { LoadStrip } from './LoadStrip'
import { Offers } from './Offers'

/** Where a dialog asks for a time: reads the phrase as it is typed, shows what
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
  const list = useId()
  const field = useRef<HTMLInputElement>(null)
  const { data, reading, offers, at, trouble, away, take, onKey, enter } = usePhrasing({
    ...props,
    typed,
    onType: setTyped,
  })
  const { quiet } = props
  useEffect(() => {
    if (!quiet) field.current?.select()
  }, [quiet])
  useEffect(() => {
    document.getElementById(`${list}-${at}`)?.scrollIntoView({ block: 'nearest' })
  }, [list, at])
  const pickDay = (d: DayLoad) => {
    setTyped(d.date)
    field.current?.focus()
  }
  return (
    <div
      className="flex min-h-0 flex-col"
      onKeyDown={(e) => {
        if (e.key === 'Enter' && e.target === field.current) {
          e.preventDefault()
          enter()
        } else onKey(e)
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
        aria-describedby={`${list}-trouble`}
        autoComplete="off"
        spellCheck={false}
        className="field shrink-0 border-2 text-[16px] outline-none focus:border-tide"
        placeholder={props.placeholder ?? 'Try “fri 2pm”, “3d”, “end of month”'}
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
      />
      <p id={`${list}-trouble`} className="min-h-6 shrink-0 pt-1 text-[13px] text-buoy">
        {trouble}
        {!trouble && !away && reading?.over && reading.why}
      </p>
      {away && (
        <p className="shrink-0 pb-2 text-[13px] text-lamp" role="status">
          Ebbe can’t be reached. Named times and dates can be taken, such as “tomorrow”, “fri” or “27 nov 14:00”. What
          you take waits in this page and is sent in order.
        </p>
      )}
      <Heard text={trouble ?? [reading?.words, reading?.over && reading.why].filter(Boolean).join(', ')} />
      {!away && data && data.days.length > 0 && (
        <LoadStrip days={data.days} chosen={offers[at]?.day} onPick={pickDay} />
      )}
      <Offers
        id={list}
        offers={offers}
        at={at}
        typed={reading}
        onTake={take}
        className="-mx-2 min-h-0 overflow-y-auto"
      />
      {props.children}
    </div>
  )
}

/** Says what was understood once typing has paused, not at each key. */
export function Heard({ text }: { text: string }) {
  const [said, setSaid] = useState('')
  useEffect(() => {
    const timer = setTimeout(() => setSaid(text), 800)
    return () => clearTimeout(timer)
  }, [text])
  return (
    <span aria-live="polite" className="sr-only">
      {said}
    </span>
  )
}
