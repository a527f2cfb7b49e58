import { useQuery } from '@tanstack/react-query'
import { Plus, X } from 'lucide-react'
import { api, errorText, take, type Routine } from '../api/client'
import { useRoutines } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { Choice } from '../kit/Choice'
import { Steps } from '../rules/Steps'
import { carryOut, told, undo } from '../state/commands'
import { failed } from '../state/failed'
import { isBound, keyName, useKeys } from '../state/keys'
import { meanwhile, stillThere } from '../state/drafting'
import { lastInSight, routineDraft, standing, type RoutineDraft } from '../state/routines'

const card = 'mb-3 rounded-[14px] border border-line bg-paper p-4'

/** Several steps on one key: those that there are, and how they are made. */
export function RoutinesView() {
  const { data, isError, error, refetch } = useRoutines()
  const draft = stillThere(routineDraft.use(), data)
  const setDraft = routineDraft.set
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
    <main className="relative mx-auto min-h-0 w-full max-w-3xl flex-1 overflow-y-auto px-4 pb-6" aria-label="Routines">
      <div className="flex flex-wrap items-center gap-2 py-2">
        <h1 className="min-w-24 flex-1 text-[20px] font-bold">Routines</h1>
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
            <button
              className="btn btn-small"
              onClick={() => setDraft({ id: r.id, name: r.name, key: r.key, steps: r.steps, was: standing(r) })}
            >
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

/** A routine while it is made or changed; it says at the same time what it would do. */
function Editor({ draft: d, all, onDone }: { draft: RoutineDraft; all: Routine[]; onDone: () => void }) {
  const setD = routineDraft.set
  const now = all.find((r) => r.id === d.id)
  const said = meanwhile(d, now && standing(now)) ?? d.hint
  const last = lastInSight.use()
  const tried = useQuery({
    queryKey: ['routines', 'try', d.steps, last?.id],
    queryFn: () =>
      take(api.POST('/api/routines/try', { body: { steps: d.steps, for: last?.id } })).catch(() =>
        take(api.POST('/api/routines/try', { body: { steps: d.steps } })),
      ),
    placeholderData: (before) => before,
  })
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
      {said && (
        <p role="status" className="mb-3 rounded-lg bg-lamp-2 px-3 py-2 text-[14px]">
          {said}
        </p>
      )}
      <Steps steps={d.steps} onChange={(steps) => setD({ ...d, steps })} />
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
