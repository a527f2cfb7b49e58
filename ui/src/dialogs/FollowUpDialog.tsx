import { ListChecks } from 'lucide-react'
import { useState } from 'react'
import type { FollowUp } from '../api/client'
import { usePhrase } from '../api/queries'
import { Dialog, DialogFoot } from '../parts/Dialog'
import { kept } from '../state/store'
import type { FollowUpFields } from '../state/commands'

/** What happens to the letter when a follow-up is made of it; remembered. */
const then = kept<'archive' | 'stay' | 'later'>('follow-up-then', 'archive')

const plain = { plain: true }

/** Makes a follow-up of letters, or of nothing, or changes one. */
export function FollowUpDialog(props: {
  hint?: string
  title: string
  due?: string
  follow?: FollowUp
  withLetter: boolean
  onTake: (fields: FollowUpFields, then: 'archive' | 'stay' | 'later') => void
  onClose: () => void
}) {
  const f = props.follow
  const [title, setTitle] = useState(props.title)
  const [due, setDue] = useState(f?.dueAs ?? props.due ?? '')
  const [remind, setRemind] = useState(f?.remindAs ?? '')
  const [priority, setPriority] = useState<NonNullable<FollowUpFields['priority']>>(
    (f?.priority as 'normal' | undefined) ?? 'normal',
  )
  const [notes, setNotes] = useState(f?.notes ?? '')
  const [estimate, setEstimate] = useState(f?.estimate ? String(f.estimate) : '')
  const where = then.use()
  const dueRead = usePhrase(due.trim(), plain)
  const remindRead = usePhrase(remind.trim(), plain)
  const wrong = (due.trim() && dueRead.data?.trouble) || (remind.trim() && remindRead.data?.trouble)
  const take = () => {
    if (!title.trim() || wrong) return
    const fields: FollowUpFields = { title: title.trim(), priority, notes, estimate: Number(estimate) || 0 }
    // An unchanged due is left as it was meant, also when it has passed.
    if (!f || due !== f.dueAs) fields.due = due.trim() ? (dueRead.data?.reading?.phrase ?? due) : ''
    if (!f || remind !== f.remindAs) fields.remind = remind.trim() ? (remindRead.data?.reading?.phrase ?? remind) : ''
    props.onTake(fields, where)
  }
  return (
    <Dialog
      title={f ? 'Change the follow-up' : 'Follow up'}
      hint={props.hint}
      icon={<ListChecks className="size-5 text-buoy" aria-hidden />}
      onClose={props.onClose}
    >
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault()
          take()
        }}
      >
        <label className="grid gap-1">
          <span className="text-[13px] text-ink-2">What is to be done</span>
          <input
            className="field"
            autoFocus
            required
            maxLength={400}
            value={title}
            onChange={(e) => setTitle(e.target.value)}
            onFocus={(e) => e.target.select()}
          />
        </label>
        <div className="grid gap-3 sm:grid-cols-2">
          <Phrase
            label="Due"
            value={due}
            onChange={setDue}
            read={f && due === f.dueAs ? { words: f.due } : dueRead.data}
            none="someday"
          />
          <Phrase
            label="Remind me"
            value={remind}
            onChange={setRemind}
            read={f && remind === f.remindAs ? { words: f.remind } : remindRead.data}
            none="no reminder"
          />
        </div>
        <fieldset className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <legend className="float-left mr-2 text-[13px] text-ink-2">Priority</legend>
          {(['urgent', 'high', 'normal', 'low'] as const).map((p) => (
            <label key={p} className="flex items-center gap-1.5">
              <input
                type="radio"
                name="priority"
                className="accent-[var(--tide)]"
                checked={priority === p}
                onChange={() => setPriority(p)}
              />
              {p}
            </label>
          ))}
          <label className="ml-auto flex items-center gap-2 text-[13px] text-ink-2">
            Minutes
            <input
              className="field !w-20 !py-1"
              inputMode="numeric"
              pattern="\d*"
              value={estimate}
              onChange={(e) => setEstimate(e.target.value.replace(/\D/g, '').slice(0, 4))}
            />
          </label>
        </fieldset>
        <label className="grid gap-1">
          <span className="text-[13px] text-ink-2">Notes</span>
          <textarea className="field min-h-16" value={notes} onChange={(e) => setNotes(e.target.value)} />
        </label>
        {props.withLetter && (
          <fieldset className="flex flex-wrap gap-x-4 gap-y-1">
            <legend className="float-left mr-2 text-[13px] text-ink-2">The letter</legend>
            {(
              [
                ['archive', 'goes to the archive'],
                ['stay', 'stays here'],
                ['later', 'comes back when it is due'],
              ] as const
            ).map(([value, words]) => (
              <label key={value} className="flex items-center gap-1.5">
                <input
                  type="radio"
                  name="then"
                  className="accent-[var(--tide)]"
                  checked={where === value}
                  onChange={() => then.set(value)}
                />
                {words}
              </label>
            ))}
          </fieldset>
        )}
        <DialogFoot>
          <button type="button" className="btn" onClick={props.onClose}>
            Leave it <span className="key">Esc</span>
          </button>
          <button type="submit" className="btn btn-main" disabled={!title.trim() || Boolean(wrong)}>
            {f ? 'Change' : 'Make follow-up'}{' '}
            <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Enter</span>
          </button>
        </DialogFoot>
      </form>
    </Dialog>
  )
}

function Phrase(props: {
  label: string
  value: string
  onChange: (text: string) => void
  read: { reading?: { words: string }; trouble?: string; words?: string } | undefined
  none: string
}) {
  const empty = props.value.trim() === ''
  const trouble = !empty && props.read?.trouble
  return (
    <label className="grid gap-1">
      <span className="text-[13px] text-ink-2">{props.label}</span>
      <input
        className="field"
        value={props.value}
        placeholder="fri 2pm, 3d, end of month"
        aria-invalid={Boolean(trouble)}
        onChange={(e) => props.onChange(e.target.value)}
      />
      <span className={`min-h-5 text-[13px] ${trouble ? 'text-buoy' : 'text-ink-3'}`} aria-live="polite">
        {empty ? props.none : trouble || props.read?.words || props.read?.reading?.words}
      </span>
    </label>
  )
}
