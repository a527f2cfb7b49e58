import { ArrowDown, ArrowUp, Plus, X } from 'lucide-react'
import type { RoutineStep } from '../api/client'
import { useLabels, useTemplates } from '../api/queries'
import { Choice } from '../kit/Choice'
import { priorities } from '../state/priorities'
import { kinds } from '../state/sorting'

const does: [RoutineStep['do'], string][] = [
  ['label', 'Label it'],
  ['star', 'Star it'],
  ['flag', 'Flag it'],
  ['note', 'Add to its note'],
  ['follow-up', 'Make a follow-up'],
  ['appointment', 'Make an appointment'],
  ['decide', 'Decide'],
]
const ends: [NonNullable<RoutineStep['decision']>, string][] = [
  ['done', 'Done'],
  ['later', 'Later'],
  ['file', 'File'],
  ['bin', 'Bin'],
  ['answer', 'Answer: open it'],
  ['hand-on', 'Hand on: open it'],
]

/** What only routines do. */
const routinesDo: typeof does = [['write', 'Write a letter: open it']]

/** What only rules do. */
const rulesDo: typeof does = [
  ['sort-out', 'Sort it out'],
  ['auto-answer', 'Answer by itself'],
  ['forward', 'Forward it'],
  ['save-files', 'Save what is attached'],
]
/** How a rule can end: what a routine opens is written as a draft. */
const ruleEnds: typeof ends = [
  ['done', 'Done'],
  ['later', 'Later'],
  ['file', 'File'],
  ['bin', 'Bin'],
  ['junk', 'Junk'],
  ['answer', 'Answer: as a draft'],
  ['hand-on', 'Hand on: as a draft'],
]

/** The steps of a routine or a rule, one below the other. */
export function Steps(props: { steps: RoutineStep[]; rule?: boolean; onChange: (to: RoutineStep[]) => void }) {
  const { steps, rule = false, onChange } = props
  const set = (i: number, to: Partial<RoutineStep>) => onChange(steps.map((s, j) => (i === j ? { ...s, ...to } : s)))
  const move = (i: number, by: number) => {
    const moved = [...steps]
    const [one] = moved.splice(i, 1)
    if (one) moved.splice(i + by, 0, one)
    onChange(moved)
  }
  return (
    <>
      <ol className="grid gap-2">
        {steps.map((s, i) => (
          <li key={i} className="flex flex-wrap items-center gap-2 rounded-lg bg-shore/60 p-2">
            <Choice
              label={`Step ${i + 1}`}
              className="btn"
              value={s.do}
              options={[...does, ...(rule ? rulesDo : routinesDo)]}
              onChange={(to) =>
                set(i, {
                  do: to,
                  text: to === 'sort-out' ? 'reading' : '',
                  when: '',
                  to: '',
                  group: undefined,
                  priority: undefined,
                  send: undefined,
                  decision: to === 'decide' ? 'done' : undefined,
                  template: undefined,
                })
              }
            />
            <StepFields step={s} nth={i + 1} rule={rule} onChange={(to) => set(i, to)} />
            <span className="ml-auto flex gap-2">
              <button
                type="button"
                className="btn btn-small"
                aria-label={`Step ${i + 1} earlier`}
                disabled={i === 0}
                onClick={() => move(i, -1)}
              >
                <ArrowUp className="size-3.5" aria-hidden />
              </button>
              <button
                type="button"
                className="btn btn-small"
                aria-label={`Step ${i + 1} later`}
                disabled={i === steps.length - 1}
                onClick={() => move(i, 1)}
              >
                <ArrowDown className="size-3.5" aria-hidden />
              </button>
              <button
                type="button"
                className="btn btn-small"
                aria-label={`Without step ${i + 1}`}
                onClick={() => onChange(steps.filter((_, j) => j !== i))}
              >
                <X className="size-3.5" aria-hidden />
              </button>
            </span>
          </li>
        ))}
      </ol>
      <button
        type="button"
        className="btn btn-small mt-2 justify-self-start"
        onClick={() => {
          const decision = steps.findIndex((s) => s.do === 'decide' || s.do === 'sort-out')
          onChange(steps.toSpliced(decision < 0 ? steps.length : decision, 0, { do: 'star' }))
        }}
      >
        <Plus className="size-3.5" aria-hidden /> Step
      </button>
    </>
  )
}

/** What a step is to be given. */
function StepFields(props: {
  step: RoutineStep
  nth: number
  rule: boolean
  onChange: (to: Partial<RoutineStep>) => void
}) {
  const { step: s, nth, rule, onChange } = props
  const { data: labels = [] } = useLabels()
  const { data: prepared } = useTemplates()
  const text = (label: string, placeholder: string) => (
    <input
      className="field min-w-0 flex-1 basis-40"
      aria-label={`${label} of step ${nth}`}
      placeholder={placeholder}
      list={label === 'Label' ? 'routine-labels' : undefined}
      value={s.text ?? ''}
      onChange={(e) => onChange({ text: e.target.value })}
    />
  )
  const when = (placeholder: string) => (
    <input
      className="field w-40"
      aria-label={`Time of step ${nth}`}
      placeholder={placeholder}
      value={s.when ?? ''}
      onChange={(e) => onChange({ when: e.target.value })}
    />
  )
  const template = (
    <Choice
      label={`Template of step ${nth}`}
      className="btn"
      value={String(s.template ?? 0)}
      options={[['0', 'No template'], ...(prepared?.templates ?? []).map((t) => [String(t.id), t.name] as const)]}
      onChange={(to) => onChange({ template: Number(to) || undefined })}
    />
  )
  const address = (
    <input
      className="field w-56"
      aria-label={`Receiver of step ${nth}`}
      placeholder="an address"
      value={s.to ?? ''}
      onChange={(e) => onChange({ to: e.target.value })}
    />
  )
  const groups = prepared?.groups ?? []
  const receivers = (
    <>
      {(groups.length > 0 || s.group !== undefined) && (
        <Choice
          label={`Group of step ${nth}`}
          className="btn"
          value={String(s.group ?? 0)}
          options={[
            ['0', 'No group'],
            ...groups.map((g) => [String(g.id), g.name] as const),
            ...(s.group && !groups.some((g) => g.id === s.group)
              ? [[String(s.group), 'a group that is gone'] as const]
              : []),
          ]}
          onChange={(to) => onChange({ group: Number(to) || undefined })}
        />
      )}
      {address}
    </>
  )
  const sends = s.template !== undefined && (
    <label className="flex items-center gap-2 text-[14px]">
      <input
        type="checkbox"
        checked={s.send ?? false}
        onChange={(e) => onChange({ send: e.target.checked || undefined })}
      />
      and send it
    </label>
  )
  return (
    <>
      <datalist id="routine-labels">
        {labels.map((l) => (
          <option key={l} value={l} />
        ))}
      </datalist>
      {s.do === 'label' && text('Label', 'a label')}
      {s.do === 'flag' && when('today')}
      {s.do === 'note' && text('Note', 'a line')}
      {s.do === 'follow-up' && (
        <>
          {text('Title', 'what the letter asks')}
          {when('in 3 days')}
          <Choice
            label={`Priority of step ${nth}`}
            className="btn"
            value={s.priority ?? 'normal'}
            options={priorities.map((p) => [p, `${p} priority`] as const)}
            onChange={(to) => onChange({ priority: to === 'normal' ? undefined : to })}
          />
        </>
      )}
      {s.do === 'appointment' && (
        <>
          {text('Title', 'as the letter is called')}
          {when('fri 10 to 11')}
        </>
      )}
      {s.do === 'sort-out' && (
        <Choice
          label={`Kind of step ${nth}`}
          className="btn"
          value={s.text ?? 'reading'}
          options={kinds.filter((k) => k.kind !== 'person').map((k) => [k.kind as string, k.word] as const)}
          onChange={(text) => onChange({ text })}
        />
      )}
      {s.do === 'write' && (
        <>
          {receivers}
          {template}
          {sends}
        </>
      )}
      {s.do === 'auto-answer' && template}
      {s.do === 'forward' && address}
      {s.do === 'save-files' && text('Name', '{date} {name}')}
      {s.do === 'decide' && (
        <>
          <Choice
            label={`Decision of step ${nth}`}
            className="btn"
            value={s.decision ?? 'done'}
            options={rule ? ruleEnds : ends}
            onChange={(decision) =>
              onChange({ decision, text: '', when: '', to: '', group: undefined, template: undefined, send: undefined })
            }
          />
          {s.decision === 'later' && when('next mon 9:00')}
          {s.decision === 'file' && text('Label', 'a label')}
          {s.decision === 'hand-on' && receivers}
          {(s.decision === 'answer' || s.decision === 'hand-on') && template}
          {!rule && (s.decision === 'answer' || s.decision === 'hand-on') && sends}
        </>
      )}
    </>
  )
}
