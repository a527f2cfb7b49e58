import { useId, useState } from 'react'
import type { PhraseFor } from '../api/queries'
import { usePhrasing } from '../state/phrasing'
import { Offers } from './Offers'
import { Heard } from './PhraseBox'

/** A time among other fields: the phrase box in one line. The arrow keys open
 * what it offers; Enter belongs to the form unless one of these is in focus. */
export function PhraseField(props: {
  label: string
  value: string
  onChange: (text: string) => void
  about?: PhraseFor
  /** Said while nothing is typed. */
  none: string
  placeholder?: string
  /** What is known to be meant already, so that it need not lie ahead. */
  meant?: string
  onDone?: () => void
  autoFocus?: boolean
  /** One line of several: read in words until it is entered. */
  line?: boolean
}) {
  const id = useId()
  const [inside, setInside] = useState(false)
  const [open, setOpen] = useState(false)
  const take = (p: { phrase: string }) => {
    props.onChange(p.phrase)
    setOpen(false)
  }
  const { reading, offers, at, trouble, onKey } = usePhrasing({
    typed: props.value,
    onType: props.onChange,
    about: props.about,
    onTake: take,
  })
  const wrong = props.meant === undefined && trouble
  const read = props.line && !inside
  const reads =
    props.value.trim() === ''
      ? props.none
      : (props.meant ?? (trouble || [...new Set([reading?.words, reading?.why])].filter(Boolean).join(' · ')))
  return (
    <div className={props.line ? 'line' : 'relative grid content-start gap-1'}>
      <label htmlFor={id} className="text-[13px] text-ink-2">
        {props.label}
      </label>
      <input
        id={id}
        role="combobox"
        aria-expanded={open}
        aria-controls={`${id}-list`}
        aria-activedescendant={open && offers[at] ? `${id}-list-${at}` : undefined}
        aria-invalid={Boolean(wrong)}
        aria-describedby={`${id}-reads`}
        autoFocus={props.autoFocus}
        autoComplete="off"
        spellCheck={false}
        className={props.line ? 'line-field' : 'field'}
        value={read && props.meant !== undefined ? props.meant : props.value}
        placeholder={read ? props.none : (props.placeholder ?? 'fri 2pm, 3d, end of month')}
        onChange={(e) => props.onChange(e.target.value)}
        onFocus={(e) => {
          setInside(true)
          e.target.select()
        }}
        onBlur={() => {
          setInside(false)
          setOpen(false)
          props.onDone?.()
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && open && offers[at]) {
            e.preventDefault()
            take(offers[at])
          } else if (e.key === 'Enter') props.onDone?.()
          else if (e.key === 'Escape' && open) {
            e.stopPropagation()
            setOpen(false)
          } else {
            if (e.key === 'ArrowDown') setOpen(true)
            onKey(e)
          }
        }}
      />
      <span
        id={`${id}-reads`}
        className={`text-[13px] ${props.line ? 'col-start-2 px-2 empty:hidden' : 'min-h-5'} ${wrong ? 'text-buoy' : reading?.over && props.meant === undefined ? 'text-lamp' : 'text-ink-3'}`}
      >
        {props.line && (props.meant !== undefined || props.value.trim() === '') ? '' : reads}
      </span>
      <Heard text={wrong || [reading?.words, reading?.why].filter(Boolean).join(', ')} />
      {open && offers.length > 0 && (
        <Offers
          id={`${id}-list`}
          offers={offers}
          at={at}
          typed={reading}
          onTake={take}
          className={`absolute inset-x-0 top-full z-10 ${props.line ? '' : '-mt-5'} max-h-64 overflow-y-auto rounded-lg border border-line bg-paper p-1 shadow-float`}
        />
      )}
    </div>
  )
}
