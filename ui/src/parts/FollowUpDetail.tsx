import { useNavigate } from '@tanstack/react-router'
import { Mail, Plus, X } from 'lucide-react'
import { useId, useState, type ReactNode } from 'react'
import { toast } from 'sonner'
import type { CheckItem, Followed, Stage } from '../api/client'
import { useFollowUp } from '../api/queries'
import { DoneDialog } from '../dialogs/DoneDialog'
import { carryOut, told, undo, type FollowUpFields } from '../state/commands'
import { answered } from '../state/followed'
import { stamp } from '../state/time'
import { closed } from './FollowCard'
import { PhraseField } from './PhraseField'
import { PriorityChoice } from './PriorityChoice'
import { Sheet } from './Sheet'

const asSpan = { plain: true, as: 'span' } as const
const asRecurs = { plain: true, as: 'recurs' } as const
const plain = { plain: true } as const

/** Says what became of a change, and offers what another page had put there. */
export function editFollowUp(f: { id: number; version?: number }, body: FollowUpFields) {
  return carryOut({ path: 'edit-follow-up', id: f.id, body: { ...body, version: f.version } }).then((o) => {
    for (const over of o?.over ?? []) {
      toast(`Elsewhere the ${over.field} had been changed to “${over.was}”. Yours counts now.`, {
        duration: 12_000,
        action: { label: 'Take that one', onClick: () => void undo() },
      })
    }
    return o
  })
}

interface Beside {
  stages: Stage[]
  names: { projects: string[]; contexts: string[]; people: string[] }
  onClose?: () => void
  /** The letter is shown beside it. */
  beside?: boolean
  /** The letter is shown in its place. */
  reading?: boolean
  onReading?: (on: boolean) => void
}

/** A follow-up in full beside the list: everything is changed in place. */
export function FollowUpDetail({ id, ...rest }: { id: number } & Beside) {
  const { data: f, isError, error } = useFollowUp(id)
  if (isError)
    return (
      <section aria-label="Follow-up" className="rounded-[14px] border border-line bg-paper p-6">
        <p className="font-semibold">This follow-up is no longer there.</p>
        <p className="text-ink-2">{error.message}</p>
      </section>
    )
  if (!f)
    return (
      <section
        aria-label="Follow-up"
        aria-busy
        className="h-60 animate-pulse rounded-[14px] border border-line bg-paper"
      />
    )
  return <Detail key={f.id} f={f} {...rest} />
}

function Detail({ f, stages, names, onClose, beside, reading = false, onReading }: { f: Followed } & Beside) {
  const sent = answered.use()
  const edit = (body: FollowUpFields) => void editFollowUp(f, body)
  const letter = f.letters.find((l) => l.conversation)
  const asks =
    sent !== undefined && sent === letter?.conversation && !closed(f) ? (
      <DoneDialog id={f.id} title={f.title} onClose={() => answered.set(undefined)} />
    ) : null
  if (reading && letter?.conversation)
    return (
      <div className="flex min-h-0 min-w-0 flex-1 flex-col gap-2">
        <button className="btn self-start" autoFocus onClick={() => onReading?.(false)}>
          Back to the follow-up
        </button>
        <SourceLetter id={letter.conversation} />
        {asks}
      </div>
    )
  return (
    <section
      aria-label="Follow-up"
      className="flex min-h-0 min-w-0 flex-1 flex-col overflow-y-auto rounded-[14px] border border-line bg-paper p-4"
    >
      {asks}
      <div className="flex items-start gap-2 pb-2">
        <Text
          label="Title"
          value={f.title}
          onKeep={(title) => edit({ title })}
          className="!text-[17px] font-semibold"
        />
        {onClose && (
          <button className="btn !px-2" aria-label="Close the follow-up" onClick={onClose}>
            <X className="size-4" aria-hidden />
          </button>
        )}
      </div>
      {(f.why?.length ?? 0) > 0 && <p className="pb-2 text-[13px] text-ink-3">Stands here: {f.why?.join(', ')}</p>}
      {f.letters.map((l) => (
        <div
          key={`${l.subject}${l.date}`}
          className="mb-2 flex items-center gap-2 rounded-[12px] bg-shore px-3 py-2 text-[13px]"
        >
          <Mail className="size-4 shrink-0 text-ink-3" aria-hidden />
          <span className="min-w-0 flex-1">
            <b className="font-semibold">{l.sender}</b> {l.subject}
            <span className="block truncate text-ink-3">
              {stamp(l.date)}
              {l.ask && ` · ${l.ask}`}
              {l.purged && ' · purged from the bin; this is what is kept of it'}
            </span>
          </span>
          {l.conversation && !beside && (
            <button className="btn !min-h-7" onClick={() => onReading?.(true)}>
              Read and answer
            </button>
          )}
        </div>
      ))}
      <div className="grid gap-x-3 gap-y-1 sm:grid-cols-2">
        <Phrase
          label="Due"
          value={f.dueAs}
          words={f.due}
          none="someday"
          about={asSpan}
          onKeep={(due) => edit({ due })}
        />
        <Phrase
          label="Start"
          value={f.startAs}
          words={f.start}
          none="any time"
          about={plain}
          onKeep={(start) => edit({ start })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 pb-2">
        <PriorityChoice value={f.priority} onChange={(priority) => edit({ priority })} />
        <label className="ml-auto flex items-center gap-2 text-[13px] text-ink-2">
          Status
          <select
            className="field !w-auto !py-1"
            value={f.status}
            onChange={(e) => edit({ status: e.target.value as NonNullable<FollowUpFields['status']> })}
          >
            {(
              [
                ['open', 'open'],
                ['under-way', 'under way'],
                ['waiting', 'waiting'],
                ['done', 'done'],
                ['dropped', 'dropped'],
              ] as const
            ).map(([value, words]) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
          </select>
        </label>
      </div>
      <div className="grid gap-x-3 gap-y-2 pb-2 sm:grid-cols-3">
        <Labelled label="Project" names={names.projects} value={f.project} onKeep={(project) => edit({ project })} />
        <Labelled label="Context" names={names.contexts} value={f.context} onKeep={(context) => edit({ context })} />
        <Labelled
          label="Who does it"
          names={names.people}
          value={f.assignee}
          onKeep={(assignee) => edit({ assignee })}
          placeholder="you"
        />
        <label className="grid content-start gap-1">
          <span className="text-[13px] text-ink-2">Stage</span>
          <select className="field" value={f.stage} onChange={(e) => edit({ stage: Number(e.target.value) })}>
            <option value={0}>none</option>
            {stages.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </select>
        </label>
        <Labelled
          label="Minutes"
          value={f.estimate ? String(f.estimate) : ''}
          placeholder="15 is assumed"
          onKeep={(m) => edit({ estimate: Math.min(10_000, Number(m.replace(/\D/g, '')) || 0) })}
        />
      </div>
      <Phrase
        label="Comes again"
        value={f.recurs}
        words={f.recurs}
        none="once"
        about={asRecurs}
        onKeep={(recurs) => edit({ recurs })}
      />
      {f.recurs && !closed(f) && (
        <div className="-mt-1 flex gap-2 pb-2">
          <button
            className="btn !min-h-7"
            onClick={() => void carryOut({ path: 'skip-follow-up', id: f.id, body: {} }).then(told)}
          >
            Skip this one
          </button>
          <button className="btn !min-h-7" onClick={() => edit({ recurs: '' })}>
            End the series
          </button>
        </div>
      )}
      <Reminders f={f} onKeep={(remind) => edit({ remind })} />
      <Checklist items={f.checklist} onKeep={(checklist) => edit({ checklist })} />
      <Notes f={f} onKeep={(notes) => edit({ notes })} />
      <details className="pt-2 text-[13px]">
        <summary className="cursor-pointer text-ink-2">History</summary>
        <ul className="pt-1">
          {f.history.map((h) => (
            <li
              key={h.entry}
              className={`flex gap-3 border-t border-line py-1 ${h.undone ? 'text-ink-3 line-through' : ''}`}
            >
              <span className="w-28 shrink-0 text-ink-3">{stamp(h.at)}</span>
              <span className="min-w-0 flex-1">{h.title}</span>
            </li>
          ))}
        </ul>
      </details>
    </section>
  )
}

/** The letter behind a follow-up, where it can be read and answered. */
export function SourceLetter({ id }: { id: number }) {
  const go = useNavigate()
  return (
    <Sheet
      id={id}
      onBack={() => void go({ to: '/letter/$id', params: { id: String(id) } })}
      onStar={() => void carryOut({ path: 'mark', body: { on: [id], mark: 'star' } })}
      onFlag={() => void go({ to: '/letter/$id', params: { id: String(id) } })}
      onLabel={() => void go({ to: '/letter/$id', params: { id: String(id) } })}
    />
  )
}

function Text(props: { label: string; value: string; className?: string; onKeep: (v: string) => void }) {
  const [typed, setTyped] = useState<string>()
  const end = () => {
    if (typed !== undefined && typed.trim() && typed.trim() !== props.value) props.onKeep(typed.trim())
    setTyped(undefined)
  }
  return (
    <textarea
      aria-label={props.label}
      rows={1}
      className={`field [field-sizing:content] resize-none ${props.className ?? ''}`}
      maxLength={400}
      value={typed ?? props.value}
      onChange={(e) => setTyped(e.target.value.replace(/\n/g, ' '))}
      onBlur={end}
      onKeyDown={(e) => {
        if (e.key === 'Enter') {
          e.preventDefault()
          end()
        }
        if (e.key === 'Escape') setTyped(undefined)
      }}
    />
  )
}

function Labelled(props: {
  label: string
  value: string
  names?: string[]
  placeholder?: string
  onKeep: (v: string) => void
}) {
  const [typed, setTyped] = useState<string>()
  const id = useId()
  const end = () => {
    if (typed !== undefined && typed.trim() !== props.value) props.onKeep(typed.trim())
    setTyped(undefined)
  }
  return (
    <label className="grid content-start gap-1">
      <span className="text-[13px] text-ink-2">{props.label}</span>
      <input
        className="field"
        list={props.names ? id : undefined}
        maxLength={100}
        placeholder={props.placeholder}
        value={typed ?? props.value}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={end}
        onKeyDown={(e) => e.key === 'Enter' && end()}
      />
      {props.names && (
        <datalist id={id}>
          {props.names.map((n) => (
            <option key={n} value={n} />
          ))}
        </datalist>
      )}
    </label>
  )
}

/** A time that is kept as soon as it is left, if it was changed. */
function Phrase(props: {
  label: string
  value: string
  words: string
  none: string
  about: typeof plain | typeof asSpan | typeof asRecurs
  onKeep: (phrase: string) => void
}) {
  const [typed, setTyped] = useState<string>()
  return (
    <PhraseField
      label={props.label}
      value={typed ?? props.value}
      onChange={setTyped}
      about={props.about}
      none={props.none}
      placeholder={props.about === asRecurs ? 'every first monday, 3 days after done' : undefined}
      meant={typed === undefined ? props.words : undefined}
      onDone={() => {
        if (typed !== undefined && typed.trim() !== props.value) props.onKeep(typed.trim())
        setTyped(undefined)
      }}
    />
  )
}

function Reminders({ f, onKeep }: { f: Followed; onKeep: (remind: string[]) => void }) {
  const [typed, setTyped] = useState('')
  const all = f.reminders.map((r) => r.phrase)
  const add = () => {
    if (typed.trim()) onKeep([...all, typed.trim()])
    setTyped('')
  }
  return (
    <div className="pb-1">
      {f.reminders.length > 0 && (
        <ul className="flex flex-wrap gap-1.5 pb-1">
          {f.reminders.map((r) => (
            <li key={r.id} className={`chip !text-[13px] ${r.state === 'rang' ? '!bg-lamp-2 !text-lamp' : ''}`}>
              {r.words}
              {r.state === 'rang' && ', rang'}
              {r.state === 'seen' && ', seen'}
              {r.phrase.includes('before') && ` (${r.phrase})`}
              <button
                aria-label={`Take the reminder ${r.words} away`}
                className="-mr-1 px-1.5 hover:text-buoy"
                onClick={() => onKeep(all.filter((p) => p !== r.phrase))}
              >
                ×
              </button>
            </li>
          ))}
        </ul>
      )}
      <PhraseField
        label="One more reminder"
        value={typed}
        onChange={setTyped}
        about={{ plain: true, as: 'remind', due: f.dueAs }}
        none={f.reminders.length === 0 ? 'no reminder' : ''}
        placeholder="thu 10, 1 day before at 9, when due"
        onDone={add}
      />
    </div>
  )
}

function Checklist({ items, onKeep }: { items: CheckItem[]; onKeep: (items: CheckItem[]) => void }) {
  const [typed, setTyped] = useState('')
  const put = (i: number, part: Partial<CheckItem>) => onKeep(items.map((it, j) => (j === i ? { ...it, ...part } : it)))
  return (
    <fieldset className="pb-2">
      <legend className="text-[13px] text-ink-2">Checklist</legend>
      <ul>
        {items.map((it, i) => (
          <li key={`${it.text}${i}`} className="flex items-center gap-2 py-0.5">
            <input
              type="checkbox"
              aria-label={it.text}
              className="size-4 accent-[var(--kelp)]"
              checked={it.done ?? false}
              onChange={(e) => put(i, { done: e.target.checked })}
            />
            <span className={`min-w-0 flex-1 ${it.done ? 'text-ink-3 line-through' : ''}`}>{it.text}</span>
            <button
              className="grid size-6 place-items-center text-ink-3 hover:text-buoy"
              aria-label={`Remove ${it.text}`}
              onClick={() => onKeep(items.filter((_, j) => j !== i))}
            >
              <X className="size-3.5" aria-hidden />
            </button>
          </li>
        ))}
      </ul>
      <form
        className="flex gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (typed.trim()) onKeep([...items, { text: typed.trim() }])
          setTyped('')
        }}
      >
        <input
          aria-label="One more step"
          placeholder="One more step"
          className="field !py-1"
          maxLength={300}
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <button className="btn !px-2" aria-label="Add the step">
          <Plus className="size-4" aria-hidden />
        </button>
      </form>
    </fieldset>
  )
}

function Notes({ f, onKeep }: { f: Followed; onKeep: (notes: string) => void }) {
  const [typed, setTyped] = useState<string>()
  const Head: ReactNode = (
    <div className="flex items-center gap-2 pb-1">
      <span className="text-[13px] text-ink-2">Notes</span>
      {typed === undefined && (
        <button className="btn !min-h-6 !px-2 !py-0 text-[12px]" onClick={() => setTyped(f.notes)}>
          {f.notes ? 'Change' : 'Write'}
        </button>
      )}
    </div>
  )
  if (typed === undefined)
    return (
      <div>
        {Head}
        {/* Made safe by the server: nothing in it runs or is fetched. */}
        {f.notesHtml && <div className="notes text-[14px]" dangerouslySetInnerHTML={{ __html: f.notesHtml }} />}
      </div>
    )
  const end = () => {
    if (typed !== f.notes) onKeep(typed)
    setTyped(undefined)
  }
  return (
    <div>
      {Head}
      <textarea
        aria-label="Notes, in Markdown"
        autoFocus
        className="field min-h-32 font-mono !text-[13px]"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={end}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) end()
          if (e.key === 'Escape') {
            e.stopPropagation()
            end()
          }
        }}
      />
    </div>
  )
}
