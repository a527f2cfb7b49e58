import { useNavigate } from '@tanstack/react-router'
import { Mail, X } from 'lucide-react'
import { useState } from 'react'
import { toast } from '../state/toast'
import type { Followed, Stage } from '../api/client'
import { useFollowUp } from '../api/queries'
import { DoneDialog } from './DoneDialog'
import { carryOut, undo, type FollowUpFields } from '../state/commands'
import { answered } from '../state/followed'
import { stamp } from '../state/time'
import { Checklist } from './Checklist'
import { FollowFields } from './FollowFields'
import { FollowNotes } from './FollowNotes'
import { Sheet } from '../letters/Sheet'

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
    sent !== undefined && sent === letter?.conversation && !f.closed ? (
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
          <button className="btn btn-tight" aria-label="Close the follow-up" onClick={onClose}>
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
            <button className="btn btn-small" onClick={() => onReading?.(true)}>
              Read and answer
            </button>
          )}
        </div>
      ))}
      <FollowFields f={f} stages={stages} names={names} onEdit={edit} />
      <Checklist items={f.checklist} onKeep={(checklist) => edit({ checklist })} />
      <FollowNotes f={f} onKeep={(notes) => edit({ notes })} />
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
      className={`line-field -ml-2 [field-sizing:content] resize-none ${props.className ?? ''}`}
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
