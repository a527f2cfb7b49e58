import { useQuery } from '@tanstack/react-query'
import { ArrowDown, ArrowUp, Plus, X } from 'lucide-react'
import { useState } from 'react'
import { api, errorText, take, type Routine, type RoutineStep } from '../api/client'
import { useLabels, useRoutines, useTemplates } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { Choice } from '../kit/Choice'
import { carryOut, told, undo } from '../state/commands'
import { failed } from '../state/failed'
import { isBound, keyName, useKeys } from '../state/keys'
import { lastInSight } from '../state/routines'

const card = 'mb-3 rounded-[14px] border border-line bg-paper p-4'

interface Draft {
  id?: number
  name: string
  key: string
  steps: RoutineStep[]
}

/** Several steps on one key: those that there are, and how they are made. */
export function RoutinesView() {
  const { data, isError, error, refetch } = useRoutines()
  const [draft, setDraft] = useState<Draft>()
  useKeys({ undo: () => void undo() })
  const examples = useQuery({
    queryKey: ['routine-examples'],
    queryFn: () => take(api.GET('/api/routines/examples')),
    staleTime: Infinity,
  })
  const fromWhatIDid = () =>
    take(api.GET('/api/routines/just-did')).then(
      (did) =>
        did.steps.length > 0
          ? setDraft({ name: '', key: freeKey(data), steps: did.steps })
          : failed('Nothing was done last that a routine does. Label, star, note, put off or file a letter first.'),
      (e: unknown) => failed(errorText(e, 'What you did last could not be read.')),
    )
  const left = (examples.data ?? []).filter((e) => !data?.some((r) => r.name === e.name))
  return (
    <main className="mx-auto min-h-0 w-full max-w-3xl flex-1 overflow-y-auto px-4 pb-6" aria-label="Routines">
      <div className="flex flex-wrap items-center gap-2 py-2">
        <h1 className="min-w-0 flex-1 text-[20px] font-bold">Routines</h1>
        <button className="btn" onClick={() => void fromWhatIDid()}>
          Of what I just did
        </button>
        <button
          className="btn"
          onClick={() => setDraft({ name: '', key: freeKey(data), steps: [{ do: 'label', text: '' }] })}
        >
          <Plus className="size-4" aria-hidden /> New routine
        </button>
      </div>
      {isError && <CouldNotRead what="The routines" error={error} again={() => void refetch()} />}
      {!data && !isError && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {draft && draft.id === undefined && <Editor draft={draft} all={data ?? []} onDone={() => setDraft(undefined)} />}
      {data?.length === 0 && !draft && (
        <p className={`${card} text-ink-2`}>
          No routines yet. A routine does several things with a letter at one key: label it, add a note, make a
          follow-up, and decide. Its keys stand above the decisions, and all it did is taken back by one undo.
        </p>
      )}
      {data?.map((r) =>
        draft?.id === r.id ? (
          <Editor key={r.id} draft={draft} all={data} onDone={() => setDraft(undefined)} />
        ) : (
          <section key={r.id} aria-label={r.name} className={`${card} flex items-start gap-3`}>
            <span className="key mt-1 shrink-0">{r.key ? keyName(r.key) : '–'}</span>
            <div className="min-w-0 flex-1">
              <h2 className="font-semibold">{r.name}</h2>
              <p className={`text-[14px] ${r.off ? 'text-buoy' : 'text-ink-2'}`}>{r.off ?? r.words}</p>
            </div>
            <button className="btn btn-small" onClick={() => setDraft({ ...r })}>
              Change
            </button>
            <button
              className="btn btn-small"
              aria-label={`Take “${r.name}” away`}
              onClick={() => void carryOut({ path: 'edit-routine', id: r.id, body: { remove: true } }).then(told)}
            >
              <X className="size-4" aria-hidden />
            </button>
          </section>
        ),
      )}
      {left.length > 0 && !draft && (
        <section aria-label="Examples" className="pt-2">
          <h2 className="pb-1 text-[13px] font-semibold text-ink-2">To begin with</h2>
          <div className="flex flex-wrap gap-2">
            {left.map((e) => (
              <button key={e.name} className="btn" onClick={() => setDraft({ ...e, key: freeKey(data, e.key) })}>
                {e.name}
              </button>
            ))}
          </div>
        </section>
      )}
    </main>
  )
}

const offered = [...'890', ...'abcdefghijklmnopqrstuvwxyz']
const isFree = (key: string, all: Routine[] | undefined, but?: number) =>
  !isBound(key) && !all?.some((r) => r.key === key && r.id !== but)
/** The key that is meant if it is free, else the first one that is. */
const freeKey = (all: Routine[] | undefined, meant?: string) =>
  meant && isFree(meant, all) ? meant : (offered.find((k) => isFree(k, all)) ?? '')

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

/** A routine while it is made or changed; it says at the same time what it would do. */
function Editor({ draft, all, onDone }: { draft: Draft; all: Routine[]; onDone: () => void }) {
  const [d, setD] = useState(draft)
  const last = lastInSight.use()
  const tried = useQuery({
    queryKey: ['routines', 'try', d.steps, last?.id],
    queryFn: () =>
      take(api.POST('/api/routines/try', { body: { steps: d.steps, for: last?.id } })).catch(() =>
        take(api.POST('/api/routines/try', { body: { steps: d.steps } })),
      ),
    placeholderData: (before) => before,
  })
  const set = (i: number, to: Partial<RoutineStep>) =>
    setD({ ...d, steps: d.steps.map((s, j) => (i === j ? { ...s, ...to } : s)) })
  const move = (i: number, by: number) => {
    const steps = [...d.steps]
    const [one] = steps.splice(i, 1)
    if (one) steps.splice(i + by, 0, one)
    setD({ ...d, steps })
  }
  const save = () => {
    const body = { name: d.name, key: d.key, steps: d.steps }
    void carryOut(d.id === undefined ? { path: 'new-routine', body } : { path: 'edit-routine', id: d.id, body }).then(
      (o) => told(o) && onDone(),
    )
  }
  const keys = [...new Set([d.key, '', ...offered.filter((k) => isFree(k, all, d.id))])]
  return (
    <form
      aria-label={d.id === undefined ? 'New routine' : `Change ${d.name}`}
      className={card}
      onSubmit={(e) => {
        e.preventDefault()
        save()
      }}
      onKeyDown={(e) => e.key === 'Escape' && onDone()}
    >
      <div className="flex flex-wrap gap-2 pb-3">
        <input
          className="field min-w-0 flex-1"
          aria-label="Name"
          placeholder="What it is called"
          autoFocus
          value={d.name}
          onChange={(e) => setD({ ...d, name: e.target.value })}
        />
        <Choice
          label="Key"
          className="btn"
          value={d.key}
          options={keys.map((k) => [k, k ? `Key ${keyName(k)}` : 'No key'] as const)}
          onChange={(key) => setD({ ...d, key })}
        />
      </div>
      <ol className="grid gap-2">
        {d.steps.map((s, i) => (
          <li key={i} className="flex flex-wrap items-center gap-2 rounded-lg bg-shore/60 p-2">
            <Choice
              label={`Step ${i + 1}`}
              className="btn"
              value={s.do}
              options={does}
              onChange={(to) =>
                set(i, {
                  do: to,
                  text: '',
                  when: '',
                  decision: to === 'decide' ? 'done' : undefined,
                  template: undefined,
                })
              }
            />
            <StepFields step={s} nth={i + 1} onChange={(to) => set(i, to)} />
            <span className="flex-1" />
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
              disabled={i === d.steps.length - 1}
              onClick={() => move(i, 1)}
            >
              <ArrowDown className="size-3.5" aria-hidden />
            </button>
            <button
              type="button"
              className="btn btn-small"
              aria-label={`Without step ${i + 1}`}
              onClick={() => setD({ ...d, steps: d.steps.filter((_, j) => j !== i) })}
            >
              <X className="size-3.5" aria-hidden />
            </button>
          </li>
        ))}
      </ol>
      <button
        type="button"
        className="btn btn-small mt-2"
        onClick={() => {
          const decision = d.steps.findIndex((s) => s.do === 'decide')
          const steps = [...d.steps]
          steps.splice(decision < 0 ? steps.length : decision, 0, { do: 'star' })
          setD({ ...d, steps })
        }}
      >
        <Plus className="size-3.5" aria-hidden /> Step
      </button>
      <p
        className={`mt-3 rounded-lg px-3 py-2 text-[14px] ${tried.data?.off ? 'bg-buoy-2 text-buoy' : 'bg-tide-3'}`}
        role="status"
      >
        {tried.data?.off ?? (
          <>
            {last ? <>With “{last.title}”: </> : 'It would: '}
            {tried.data?.words}
          </>
        )}
      </p>
      <div className="mt-3 flex justify-end gap-2">
        <button type="button" className="btn" onClick={onDone}>
          Cancel <span className="key">Esc</span>
        </button>
        <button className="btn btn-main">{d.id === undefined ? 'Keep the routine' : 'Keep the change'}</button>
      </div>
    </form>
  )
}

/** What a step is to be given. */
function StepFields(props: { step: RoutineStep; nth: number; onChange: (to: Partial<RoutineStep>) => void }) {
  const { step: s, nth, onChange } = props
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
        </>
      )}
      {s.do === 'appointment' && (
        <>
          {text('Title', 'as the letter is called')}
          {when('fri 10 to 11')}
        </>
      )}
      {s.do === 'decide' && (
        <>
          <Choice
            label={`Decision of step ${nth}`}
            className="btn"
            value={s.decision ?? 'done'}
            options={ends}
            onChange={(decision) => onChange({ decision, text: '', when: '', to: '', template: undefined })}
          />
          {s.decision === 'later' && when('next mon 9:00')}
          {s.decision === 'file' && text('Label', 'a label')}
          {s.decision === 'hand-on' && (
            <input
              className="field w-56"
              aria-label={`Receiver of step ${nth}`}
              placeholder="an address"
              value={s.to ?? ''}
              onChange={(e) => onChange({ to: e.target.value })}
            />
          )}
          {(s.decision === 'answer' || s.decision === 'hand-on') && template}
        </>
      )}
    </>
  )
}
