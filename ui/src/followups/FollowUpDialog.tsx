import { ListChecks } from 'lucide-react'
import { useId, useState } from 'react'
import { useProposed } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { Choice } from '../kit/Choice'
import { foundBy, FoundDates } from '../days/FoundDates'
import { PhraseField } from '../days/PhraseField'
import { PriorityChoice } from './PriorityChoice'
import type { FollowUpFields } from '../state/commands'
import { kept } from '../state/store'

/** What happens to the letter when a follow-up is made of it; remembered. */
const then = kept<'archive' | 'stay' | 'later'>('follow-up-then', 'archive')
/** Whether all fields are shown; remembered. */
const whole = kept('follow-up-whole', false)

const asSpan = { plain: true, as: 'span' } as const
const asRecurs = { plain: true, as: 'recurs' } as const

/** Makes follow-ups of letters, or one of nothing. */
export function FollowUpDialog(props: {
  hint?: string
  title: string
  due?: string
  /** The letter that it comes from; what that proposes is offered. */
  conversation?: number
  withLetter: boolean
  onTake: (fields: FollowUpFields[], then: 'archive' | 'stay' | 'later') => void
  onClose: () => void
}) {
  const { data: proposed } = useProposed(props.conversation ?? 0)
  const [title, setTitle] = useState(props.title)
  const [due, setDue] = useState(props.due ?? '')
  const [remind, setRemind] = useState('')
  const [priority, setPriority] = useState<NonNullable<FollowUpFields['priority']>>()
  const [notes, setNotes] = useState('')
  const [estimate, setEstimate] = useState('')
  const [project, setProject] = useState('')
  const [context, setContext] = useState('')
  const [assignee, setAssignee] = useState('')
  const [stage, setStage] = useState(0)
  const [recurs, setRecurs] = useState('')
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set())
  const where = then.use()
  const all = whole.use()
  const names = useId()
  const asks = proposed?.asks ?? []
  const chosen = priority ?? proposed?.priority ?? 'normal'
  const take = () => {
    if (!title.trim() && ticked.size === 0) return
    const common: FollowUpFields = {
      due: due.trim(),
      priority: chosen,
      notes,
      estimate: Number(estimate) || 0,
      ...(remind.trim() ? { remind: [remind.trim()] } : {}),
      ...(project.trim() ? { project } : {}),
      ...(context.trim() ? { context } : {}),
      ...(assignee.trim() ? { assignee } : {}),
      ...(stage ? { stage } : {}),
      ...(recurs.trim() ? { recurs } : {}),
    }
    const titles = ticked.size > 0 ? asks.filter((_, i) => ticked.has(i)).map((a) => a.title) : [title.trim()]
    props.onTake(
      titles.map((t) => ({ ...common, title: t })),
      where,
    )
  }
  const many = ticked.size > 1
  return (
    <Dialog
      title="Follow up"
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
        onKeyDown={(e) => {
          const found = foundBy(e, proposed?.dates)
          if (found) setDue(found.phrase)
        }}
      >
        <label className="grid gap-1">
          <span className="text-[13px] text-ink-2">What is to be done</span>
          <input
            className="field"
            autoFocus
            required={ticked.size === 0}
            disabled={ticked.size > 0}
            maxLength={400}
            value={ticked.size > 0 ? `${ticked.size} of what the letter asks` : title}
            onChange={(e) => setTitle(e.target.value)}
            onFocus={(e) => e.target.select()}
          />
        </label>
        <div className="grid gap-x-3 sm:grid-cols-2">
          <PhraseField
            label="Due, or from start to due"
            value={due}
            onChange={setDue}
            about={asSpan}
            none="someday"
            placeholder="fri 2pm, tomorrow to fri"
          />
          <PhraseField
            label="Remind me"
            value={remind}
            onChange={setRemind}
            about={{ plain: true, as: 'remind', due }}
            none="no reminder"
            placeholder="thu 10, 1 day before at 9"
          />
        </div>
        <FoundDates dates={proposed?.dates} as="due" chosen={due} onTake={setDue} />
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <PriorityChoice value={chosen} onChange={setPriority} />
          {proposed?.why && !priority && (
            <span className="text-[13px] text-ink-3">the letter says “{proposed.why}”</span>
          )}
          <label className="ml-auto flex items-center gap-2 text-[13px] text-ink-2">
            Minutes
            <input
              className="field !w-20 !py-1"
              inputMode="numeric"
              value={estimate}
              onChange={(e) => setEstimate(e.target.value.replace(/\D/g, '').slice(0, 4))}
            />
          </label>
        </div>
        {asks.length > 1 && (
          <fieldset className="grid gap-1">
            <legend className="text-[13px] text-ink-2">
              The letter asks more than one thing; tick what to follow up
            </legend>
            {asks.map((a, i) => (
              <label key={a.text} className="flex items-center gap-2 text-[13px]">
                <input
                  type="checkbox"
                  className="size-4 accent-[var(--tide)]"
                  checked={ticked.has(i)}
                  onChange={() =>
                    setTicked((was) => {
                      const now = new Set(was)
                      if (!now.delete(i)) now.add(i)
                      return now
                    })
                  }
                />
                <span className="truncate">{a.title}</span>
              </label>
            ))}
          </fieldset>
        )}
        {all && (
          <div className="grid gap-3 sm:grid-cols-3">
            <Named
              label="Project"
              list={`${names}-p`}
              names={proposed?.names.projects}
              value={project}
              onChange={setProject}
            />
            <Named
              label="Context"
              list={`${names}-c`}
              names={proposed?.names.contexts}
              value={context}
              onChange={setContext}
            />
            <Named
              label="Who does it"
              list={`${names}-o`}
              names={proposed?.names.people}
              value={assignee}
              onChange={setAssignee}
              placeholder="you"
            />
            <div className="grid content-start gap-1">
              <span className="text-[13px] text-ink-2">Stage</span>
              <Choice
                label="Stage"
                className="field"
                value={String(stage)}
                options={[['0', 'none'], ...(proposed?.stages ?? []).map((s) => [String(s.id), s.name] as const)]}
                onChange={(v) => setStage(Number(v))}
              />
            </div>
            <div className="sm:col-span-2">
              <PhraseField
                label="Comes again"
                value={recurs}
                onChange={setRecurs}
                about={asRecurs}
                none="once"
                placeholder="every first monday, 3 days after done"
              />
            </div>
            <label className="grid gap-1 sm:col-span-3">
              <span className="text-[13px] text-ink-2">Notes, in Markdown</span>
              <textarea className="field min-h-16" value={notes} onChange={(e) => setNotes(e.target.value)} />
            </label>
          </div>
        )}
        {!all && (
          <button type="button" className="btn btn-small justify-self-start" onClick={() => whole.set(true)}>
            Project, context, stage, notes…
          </button>
        )}
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
          <button type="submit" className="btn btn-main" disabled={!title.trim() && ticked.size === 0}>
            {many ? `Make ${ticked.size} follow-ups` : 'Make follow-up'}{' '}
            <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Enter</span>
          </button>
        </DialogFoot>
      </form>
    </Dialog>
  )
}

function Named(props: {
  label: string
  list: string
  names: string[] | undefined
  value: string
  onChange: (text: string) => void
  placeholder?: string
}) {
  return (
    <label className="grid content-start gap-1">
      <span className="text-[13px] text-ink-2">{props.label}</span>
      <input
        className="field"
        list={props.list}
        maxLength={100}
        value={props.value}
        placeholder={props.placeholder}
        onChange={(e) => props.onChange(e.target.value)}
      />
      <datalist id={props.list}>
        {props.names?.map((n) => (
          <option key={n} value={n} />
        ))}
      </datalist>
    </label>
  )
}
