import { useId, useState } from 'react'
import type { Followed, Stage } from '../api/client'
import { carryOut, told, type FollowUpFields } from '../state/commands'
import { Choice } from '../kit/Choice'
import { PhraseField } from '../days/PhraseField'
import { PriorityChoice } from './PriorityChoice'

const asSpan = { plain: true, as: 'span' } as const
const asRecurs = { plain: true, as: 'recurs' } as const
const plain = { plain: true } as const

const statuses = [
  ['open', 'open'],
  ['under-way', 'under way'],
  ['waiting', 'waiting for somebody'],
  ['done', 'done'],
  ['dropped', 'dropped'],
] as const

/** What a follow-up is, line by line as one reads it; each is changed in place. */
export function FollowFields(props: {
  f: Followed
  stages: Stage[]
  names: { projects: string[]; contexts: string[]; people: string[] }
  onEdit: (body: FollowUpFields) => void
}) {
  const { f, names, onEdit } = props
  const stages = [['0', 'none'] as const, ...props.stages.map((s) => [String(s.id), s.name] as const)]
  return (
    <div className="pb-2">
      <Phrase
        label="Due"
        value={f.dueAs}
        words={f.due}
        none="someday"
        about={asSpan}
        onKeep={(due) => onEdit({ due })}
      />
      <Phrase
        label="Start"
        value={f.startAs}
        words={f.start}
        none="any time"
        about={plain}
        onKeep={(start) => onEdit({ start })}
      />
      <div className="line">
        <span className="text-[13px] text-ink-2">Priority</span>
        <PriorityChoice value={f.priority} onChange={(priority) => onEdit({ priority })} />
      </div>
      <div className="line">
        <span className="text-[13px] text-ink-2">Status</span>
        <Choice label="Status" value={f.status} options={statuses} onChange={(status) => onEdit({ status })} />
      </div>
      <div className="line">
        <span className="text-[13px] text-ink-2">Stage</span>
        <Choice
          label="Stage"
          value={String(f.stage)}
          options={stages}
          onChange={(stage) => onEdit({ stage: Number(stage) })}
        />
      </div>
      <Labelled
        label="Project"
        names={names.projects}
        value={f.project}
        placeholder="none"
        onKeep={(project) => onEdit({ project })}
      />
      <Labelled
        label="Context"
        names={names.contexts}
        value={f.context}
        placeholder="anywhere"
        onKeep={(context) => onEdit({ context })}
      />
      <Labelled
        label="Who does it"
        names={names.people}
        value={f.assignee}
        placeholder="you"
        onKeep={(assignee) => onEdit({ assignee })}
      />
      <Labelled
        label="Minutes"
        value={f.estimate ? String(f.estimate) : ''}
        placeholder="15 is assumed"
        onKeep={(m) => onEdit({ estimate: Math.min(10_000, Number(m.replace(/\D/g, '')) || 0) })}
      />
      <Phrase
        label="Comes again"
        value={f.recurs}
        words={f.recurs}
        none="once"
        about={asRecurs}
        onKeep={(recurs) => onEdit({ recurs })}
      />
      {f.recurs && !f.closed && (
        <div className="flex gap-2 py-1.5">
          <button
            className="btn btn-small"
            onClick={() => void carryOut({ path: 'skip-follow-up', id: f.id, body: {} }).then(told)}
          >
            Skip this one
          </button>
          <button className="btn btn-small" onClick={() => onEdit({ recurs: '' })}>
            End the series
          </button>
        </div>
      )}
      <Reminders f={f} onKeep={(remind) => onEdit({ remind })} />
    </div>
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
    <label className="line">
      <span className="text-[13px] text-ink-2">{props.label}</span>
      <input
        className="line-field"
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
      line
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
    <div>
      {f.reminders.length > 0 && (
        <ul className="flex flex-wrap gap-1.5 pt-1.5">
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
        line
        label={f.reminders.length === 0 ? 'Reminder' : 'One more'}
        value={typed}
        onChange={setTyped}
        about={{ plain: true, as: 'remind', due: f.dueAs }}
        none={f.reminders.length === 0 ? 'none' : 'another reminder'}
        placeholder="thu 10, 1 day before at 9, when due"
        onDone={add}
      />
    </div>
  )
}
