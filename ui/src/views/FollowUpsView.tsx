import { part } from '../kit/part'
import { useNavigate, useSearch } from '@tanstack/react-router'
import { ArrowDownUp, Columns3, LayoutList, Play, Settings2 } from 'lucide-react'
import { useEffect, useMemo, useState, type DragEvent } from 'react'
import { toast } from '../state/toast'
import { api, errorText, take, type Board, type BoardFilter, type BoardLane, type FollowUp } from '../api/client'
import { boardQuery, client, useBoard, type Arranged, type Layout } from '../api/queries'
import { LaterDialog } from '../letters/LaterDialog'
import { FollowFilter } from '../followups/FollowFilter'
import { FollowBoard, FollowList, type Lanes } from '../followups/FollowLanes'
import { FollowUpDetail } from '../followups/FollowUpDetail'
import { Load } from '../followups/Load'
import { Selection } from '../followups/Selection'
import { dropFile } from '../followups/dropFile'
import { startAnswer } from '../state/answering'
import { carryOut, told, undo, type FollowUpFields } from '../state/commands'
import { startHandOver } from '../state/followed'
import type { Handlers } from '../state/keys'
import { boardWithout, useHidden, type RowKey } from '../state/hiding'
import { useRowFocus, useRowKeys } from '../state/rows'
import { kept } from '../state/store'
import { CouldNotRead } from '../kit/CouldNotRead'
import { failed } from '../state/failed'

const FitDialog = part(() => import('../followups/FitDialog').then((m) => m.FitDialog))
const CaptureDialog = part(() => import('../followups/CaptureDialog').then((m) => m.CaptureDialog))
const TaskFilesDialog = part(() => import('../followups/TaskFilesDialog').then((m) => m.TaskFilesDialog))
const StagesDialog = part(() => import('../followups/StagesDialog').then((m) => m.StagesDialog))

const layouts: readonly Layout[] = ['due', 'stage', 'priority', 'person', 'project', 'context', 'order']
const layout = kept<Layout>('follow-ups-by', 'due')
const asBoard = kept('follow-ups-board', true)

/** Reads the board before it is wanted, so that it opens at once. */
export const warm = () => client.prefetchQuery(boardQuery({ by: layout.get(), closed: false, filter: {} }))

const same = (id: number) => id

/** All follow-ups, as a board or a list over the same lanes, with the one in
 * focus in full beside them. */
export function FollowUpsView() {
  const by = layout.use()
  const board = asBoard.use()
  const [done, setDone] = useState(false)
  const [filter, setFilter] = useState<BoardFilter>({})
  const q: Arranged = { by, closed: done, filter }
  const { data: whole, isPending, isError, error, refetch } = useBoard(q)
  const hidden = useHidden()
  const data = useMemo(() => whole && boardWithout(whole, hidden), [whole, hidden])
  const { open } = useSearch({ strict: false }) as { open?: number }
  const go = useNavigate()
  const [detail, setDetail] = useState(open !== undefined)
  const [reading, setReading] = useState(false)
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set())
  const [asking, setAsking] = useState<'fit' | 'stages' | 'move' | 'files'>()
  const [dropped, setDropped] = useState<{ file?: string; line?: string }>({})
  const lanes = useMemo(() => (data?.lanes ?? []).filter((l) => board || !folded.has(l.key)), [data, board, folded])
  const order = useMemo(() => lanes.flatMap((l) => l.ids), [lanes])
  const list = useRowFocus<number, number, number>({ rows: order, keyOf: same, pick: same, initial: open })
  const { focusOn, selected: chosen } = list
  // One that is opened from elsewhere is shown, though the lanes may not have it.
  const [opened, setOpened] = useState(open)
  useEffect(() => {
    if (open === undefined) return
    focusOn(open)
    setOpened(open)
    setDetail(true)
  }, [open, focusOn])
  const focus = detail && opened !== undefined && !order.includes(opened) ? opened : list.focus
  const lane = lanes.findIndex((l) => focus !== undefined && l.ids.includes(focus))

  const goTo = (id: number | undefined) => {
    setOpened(undefined)
    if (id !== undefined) focusOn(id)
  }
  const across = (step: number) => {
    const row = lanes[lane]?.ids.indexOf(focus ?? -1) ?? 0
    for (let l = lane + step; l >= 0 && l < lanes.length; l += step) {
      const ids = lanes[l]?.ids ?? []
      if (ids.length > 0) return goTo(ids[Math.min(row, ids.length - 1)])
    }
  }
  const targets = () => (chosen.size > 0 ? [...chosen.keys()] : focus !== undefined ? [focus] : [])
  const edit = (ids: number[], body: FollowUpFields, hides?: RowKey[]) => {
    if (ids.length === 0) return
    list.clear()
    return carryOut({ path: 'edit-follow-ups', body: { ...body, on: ids }, ...(hides ? { hides } : {}) }).then(told)
  }
  const complete = (ids: number[], status: 'done' | 'open' | 'dropped' = done ? 'open' : 'done') => {
    const hides = ids.map((id) => `follow-up:${id}` as const)
    void edit(ids, { status }, hides)
  }
  const put = (to: BoardLane, ids: number[]) => {
    if (done) return
    place(q, to, ids)
    void edit(ids, { lane: { by, key: to.key } })?.then((o) => {
      if (!o) void client.invalidateQueries({ queryKey: ['follow-ups'] })
    })
  }
  const show = (id: number) => {
    goTo(id)
    setDetail(true)
  }
  const answer = async () => {
    if (focus === undefined) return
    const f = await take(api.GET('/api/follow-ups/{id}', { params: { path: { id: focus } } }))
    const id = f.letters.find((l) => l.conversation)?.conversation
    if (!id) return toast('It has no letter to answer.')
    setDetail(true)
    setReading(true)
    startAnswer(await take(api.GET('/api/conversations/{id}', { params: { path: { id } } })))
  }
  const handOver = () =>
    focus !== undefined &&
    void startHandOver(focus).then(
      (conversation) =>
        void (conversation ? go({ to: '/letter/$id', params: { id: String(conversation) } }) : go({ to: '/inbox' })),
      (e: unknown) => failed(errorText(e, 'The letter could not be drafted.')),
    )
  const keys: Handlers = {
    answer: () => void answer(),
    open: () => focus !== undefined && (detail ? setReading(!reading) : show(focus)),
    done: () => complete(targets()),
    later: () => targets().length > 0 && setAsking('move'),
    handOn: handOver,
    followUp: () => focus !== undefined && show(focus),
    bin: () => complete(targets(), 'dropped'),
    undo: () => void undo(),
    work: () => void go({ to: '/work' }),
    fit: () => setAsking('fit'),
  }
  useRowKeys(list, keys, () => (reading ? setReading(false) : setDetail(false)))
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      const field =
        e.target instanceof Element && e.target.closest('input, textarea, select, [role=dialog], [role=menu]')
      if (e.defaultPrevented || field) return
      const step = e.key === 'ArrowRight' ? 1 : e.key === 'ArrowLeft' ? -1 : 0
      if (step !== 0 && !e.altKey && !e.ctrlKey) {
        e.preventDefault()
        const to = (data?.lanes ?? [])[(data?.lanes ?? []).findIndex((l) => l.key === lanes[lane]?.key) + step]
        if (!e.shiftKey) across(step)
        else if (to) put(to, targets())
      }
      if (e.key === 'Enter' && !(e.target instanceof Element && e.target.closest('button, a')) && focus !== undefined) {
        e.preventDefault()
        show(focus)
      }
    }
    addEventListener('keydown', keys)
    return () => removeEventListener('keydown', keys)
  })
  const on: Lanes | undefined = data && {
    board: data,
    focus,
    chosen,
    folded,
    stages: by !== 'stage',
    takes: !done,
    onFold: (key) =>
      setFolded((was) => {
        const now = new Set(was)
        if (!now.delete(key)) now.add(key)
        return now
      }),
    onFocus: goTo,
    onToggle: list.toggle,
    onOpen: show,
    onComplete: (f: FollowUp) => complete([f.id], f.closed ? 'open' : 'done'),
    onDrop: put,
  }
  // Files and text dropped here become follow-ups; lists of tasks are shown first.
  const takeDrop = (e: DragEvent) => {
    const types = e.dataTransfer.types
    if (types.includes('text/x-ebbe-follow-ups') || !(types.includes('Files') || types.includes('text/plain'))) return
    e.preventDefault()
    e.stopPropagation()
    if (e.type !== 'drop') return
    const files = [...e.dataTransfer.files]
    if (files.length === 0) {
      const words = e.dataTransfer.getData('text/plain').replace(/\s+/g, ' ').trim()
      if (words) setDropped({ line: `"${words.replaceAll('"', '').slice(0, 300)}", ` })
      return
    }
    for (const file of files) {
      if (/\.(ics|csv|tsv|txt)$/i.test(file.name)) {
        void file.text().then((text) => {
          setDropped({ file: text })
          setAsking('files')
        })
      } else void dropFile(file)
    }
  }
  const beside = detail && focus !== undefined && data
  return (
    <main
      className="flex min-h-0 flex-1 flex-col px-4 pb-3 max-md:px-2"
      aria-label="Follow-ups"
      onDragOver={takeDrop}
      onDrop={takeDrop}
    >
      <div className="flex flex-wrap items-center gap-2 py-2">
        <h1 className="text-[20px] font-bold">Follow-ups</h1>
        <div role="radiogroup" aria-label="Laid out by" className="flex flex-wrap gap-1">
          {layouts.map((l) => (
            <button
              key={l}
              role="radio"
              aria-checked={by === l && !done}
              className={`btn btn-small btn-tight ${by === l && !done ? '!bg-tide-2' : ''}`}
              onClick={() => {
                layout.set(l)
                setDone(false)
              }}
            >
              {l}
            </button>
          ))}
          <button
            role="radio"
            aria-checked={done}
            className={`btn btn-small btn-tight ${done ? '!bg-tide-2' : ''}`}
            onClick={() => setDone(true)}
          >
            done
          </button>
        </div>
        <button
          className="btn btn-small btn-tight"
          aria-label={board ? 'Show as a list' : 'Show as a board'}
          title={board ? 'As a list' : 'As a board'}
          onClick={() => asBoard.set(!board)}
        >
          {board ? <LayoutList className="size-4" aria-hidden /> : <Columns3 className="size-4" aria-hidden />}
        </button>
        <button
          className="btn btn-small btn-tight"
          aria-label="Stages, names and order"
          title="Stages, names and order"
          disabled={!data}
          onClick={() => setAsking('stages')}
        >
          <Settings2 className="size-4" aria-hidden />
        </button>
        <button
          className="btn btn-small btn-tight"
          aria-label="In and out, and by mail"
          title="In and out, and by mail"
          onClick={() => setAsking('files')}
        >
          <ArrowDownUp className="size-4" aria-hidden />
        </button>
        <span className="flex-1" />
        <button className="btn btn-main" onClick={() => void go({ to: '/work' })}>
          <Play className="size-4" aria-hidden /> Work through today
          <span className="key !border-on-deep/30 !bg-transparent !text-on-deep max-md:hidden">W</span>
        </button>
      </div>
      <div className="flex flex-wrap items-center gap-1.5 pb-2 text-[13px]">
        {chosen.size > 0 ? (
          <Selection
            n={chosen.size}
            board={data}
            onEdit={(body) => void edit(targets(), body)}
            onMove={() => setAsking('move')}
            onDone={() => complete(targets())}
            onNone={() => list.clear()}
          />
        ) : (
          <FollowFilter
            board={data}
            by={by}
            filter={filter}
            onFilter={setFilter}
            onKept={(kept, f) => {
              if (kept) layout.set(kept)
              setFilter(f)
            }}
          />
        )}
        <span className="flex-1" />
        {data && <Load board={data} onFit={() => setAsking('fit')} />}
      </div>
      {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {isError && !data && <CouldNotRead what="The follow-ups" error={error} again={refetch} />}
      {data && data.total === 0 && (
        <p className="p-6 text-ink-2">
          {data.all > 0
            ? 'Nothing passes the filter.'
            : done
              ? 'Nothing is done yet.'
              : 'Nothing to follow up. Press 4 on a letter to make a follow-up of it, or C to note one down.'}
        </p>
      )}
      <div className="flex min-h-0 flex-1 gap-3">
        {data && on && data.total > 0 && (
          <div className={`flex min-h-0 min-w-0 flex-1 flex-col ${beside ? 'max-lg:hidden' : ''}`}>
            {board && !done ? <FollowBoard on={on} /> : <FollowList on={on} />}
          </div>
        )}
        {beside && (
          <div className="flex min-h-0 w-full flex-col lg:w-[440px] lg:shrink-0">
            <FollowUpDetail
              id={focus}
              stages={data.stages}
              names={data.names}
              reading={reading}
              onReading={setReading}
              onClose={() => setDetail(false)}
            />
          </div>
        )}
      </div>
      <p className="pt-1.5 text-[12.5px] text-ink-3 max-lg:hidden">
        <span className="key">Space</span> open, then read <span className="key ml-2">1</span> answer{' '}
        <span className="key ml-2">2</span> complete <span className="key ml-2">3</span> due{' '}
        <span className="key ml-2">5</span> hand over <span className="key ml-2">7</span> drop{' '}
        <span className="key ml-2">X</span> select <span className="key ml-2">Shift ← →</span> to the next lane{' '}
        <span className="key ml-2">C</span> note down
      </p>

      {asking === 'files' && (
        <TaskFilesDialog
          text={dropped.file}
          onClose={() => {
            setAsking(undefined)
            setDropped({})
          }}
        />
      )}
      {dropped.line !== undefined && (
        <CaptureDialog
          initial={dropped.line}
          onClose={() => setDropped({})}
          onTake={(line) => {
            setDropped({})
            void carryOut({ path: 'capture-follow-up', body: { line } }).then(told)
          }}
        />
      )}
      {asking === 'fit' && <FitDialog onClose={() => setAsking(undefined)} />}
      {asking === 'stages' && data && <StagesDialog board={data} onClose={() => setAsking(undefined)} />}
      {asking === 'move' && (
        <LaterDialog
          title="Due"
          hint={`${targets().length} ${targets().length === 1 ? 'follow-up' : 'follow-ups'}`}
          about={{}}
          onClose={() => setAsking(undefined)}
          onTake={(p) => {
            setAsking(undefined)
            void edit(targets(), { due: p.phrase === 'someday' ? '' : p.phrase })
          }}
        />
      )}
    </main>
  )
}

/** Puts cards into a lane at once; the server's answer follows. */
function place(q: Arranged, to: BoardLane, ids: number[]) {
  client.setQueryData<Board>(
    ['follow-ups', 'board', q],
    (b) =>
      b && {
        ...b,
        lanes: b.lanes.map((l) => {
          const rest = l.ids.filter((id) => !ids.includes(id))
          return { ...l, ids: l.key === to.key ? [...ids, ...rest] : rest }
        }),
      },
  )
}
