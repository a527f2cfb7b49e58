import { useNavigate } from '@tanstack/react-router'
import { format } from 'date-fns'
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react'
import type { JournalEntry } from '../api/client'
import { useDrafts, useJournal } from '../api/queries'
import { Beside } from '../letters/Beside'
import { Rows, useRows } from '../kit/Rows'
import { undo } from '../state/commands'
import { useKeys } from '../state/keys'
import { useRowFocus, useRowKeys } from '../state/rows'
import { clock, stamp } from '../state/time'
import { resume } from '../state/writing'
import { CouldNotRead } from '../kit/CouldNotRead'
import { SortedDialog } from '../shallows/SortedDialog'

const actors: Record<string, string> = {
  person: 'you',
  clock: 'the clock',
  import: 'an import',
  post: 'the post',
  elsewhere: 'elsewhere',
  sorting: 'sorting',
  rule: 'a rule',
}

/** Every change since the first day, by whom, with undo. */
export function JournalView() {
  const [typed, setTyped] = useState('')
  const [day, setDay] = useState('')
  const q = useDeferredValue(typed.trim())
  const { data, isPending, isError, error, refetch, hasNextPage, isFetchingNextPage, fetchNextPage } = useJournal(
    q,
    day,
  )
  const list = useMemo(() => (data?.pages ?? []).flat(), [data])
  const rows = useRowFocus<JournalEntry, number, JournalEntry>({
    rows: list,
    keyOf: (e) => e.entry,
    pick: (e) => e,
    single: true,
  })
  const { focus } = rows
  const items = useMemo(() => {
    const out: ({ head: string } | { entry: JournalEntry })[] = []
    list.forEach((entry, i) => {
      if (entry.day !== list[i - 1]?.day) out.push({ head: entry.day })
      out.push({ entry })
    })
    return out
  }, [list])
  const scroller = useRef<HTMLDivElement>(null)
  const at = useMemo(() => items.findIndex((i) => 'entry' in i && i.entry === focus), [items, focus])
  const virtual = useRows(items, scroller, (item) => ('head' in item ? 36 : 40), { focus: { key: focus?.entry, at } })
  const last = virtual.getVirtualItems().at(-1)?.index ?? 0
  useEffect(() => {
    if (hasNextPage && !isFetchingNextPage && last > items.length - 20) void fetchNextPage()
  }, [last, items.length, hasNextPage, isFetchingNextPage, fetchNextPage])
  const go = useNavigate()
  const [sorted, setSorted] = useState<number>()
  const open = (e: JournalEntry | undefined) => {
    if (e?.sorted) setSorted(e.entry)
    else if (e?.conversation) void go({ to: '/letter/$id', params: { id: String(e.conversation) } })
  }
  useRowKeys(rows, { undo: () => void undo(), open: () => open(focus) })
  return (
    <Beside id={focus?.conversation}>
      <main className="flex min-h-0 w-full flex-1 flex-col pb-3" aria-label="Journal">
        <div className="flex flex-wrap items-center gap-3 py-2">
          <h1 className="text-[20px] font-bold">Journal</h1>
          <input
            type="search"
            aria-label="Find in the Journal"
            placeholder="Find what was done"
            className="field !w-56 !py-1"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
          />
          <label className="flex items-center gap-2 text-[13px] text-ink-2">
            back from
            <input type="date" className="field !w-auto !py-1" value={day} onChange={(e) => setDay(e.target.value)} />
          </label>
          <span className="text-[13px] text-ink-3 max-md:hidden">
            <span className="key">Space</span> the letter
          </span>
        </div>
        <div
          ref={scroller}
          className="min-h-0 flex-1 overflow-y-auto"
          tabIndex={0}
          data-home
          role="region"
          aria-label="What was done"
        >
          {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
          {isError && !data && <CouldNotRead what="The Journal" error={error} again={refetch} />}
          {data && list.length === 0 && (
            <p className="p-6 text-ink-2">{q || day ? 'Nothing like that was done.' : 'Nothing has happened yet.'}</p>
          )}
          <Rows virtual={virtual} items={items}>
            {(item, style, key) => {
              if ('head' in item)
                return (
                  <h2
                    key={key}
                    className="absolute inset-x-0 flex items-end px-2 pb-1 text-[13px] font-semibold text-ink-2"
                    style={style}
                  >
                    {wordsOf(item.head)}
                  </h2>
                )
              const e = item.entry
              return (
                <div
                  key={key}
                  aria-current={e === focus}
                  className={`absolute inset-x-0 flex items-center gap-3 rounded-lg border px-2 ${e === focus ? 'border-tide bg-paper' : 'border-transparent border-b-line'}`}
                  style={style}
                  onClick={() => rows.focusOn(e.entry)}
                >
                  <span className="w-12 shrink-0 text-[13px] text-ink-3">{clock(e.at)}</span>
                  <span
                    className={`min-w-0 flex-1 truncate ${e.undone ? 'text-ink-3 line-through' : ''}`}
                    title={e.title}
                  >
                    {e.title}
                  </span>
                  {e.sorted && !e.undone && (
                    <button className="btn btn-small btn-tight" onClick={() => setSorted(e.entry)}>
                      Letters
                    </button>
                  )}
                  <span className="chip shrink-0">{actors[e.actor] ?? e.actor}</span>
                  <span className="w-16 shrink-0 text-right">
                    {e.undo ? (
                      <button
                        className="btn btn-small btn-tight"
                        aria-label={`Undo: ${e.title}`}
                        onClick={() => void undo(e.entry)}
                      >
                        Undo
                      </button>
                    ) : (
                      e.undone && <span className="text-[13px] text-ink-3">undone</span>
                    )}
                  </span>
                </div>
              )
            }}
          </Rows>
        </div>
        {sorted !== undefined && <SortedDialog entry={sorted} onClose={() => setSorted(undefined)} />}
      </main>
    </Beside>
  )
}

/** A day of the server, 2006-01-02, in words. */
const wordsOf = (day: string) => format(new Date(`${day}T12:00`), 'EEEE d MMMM yyyy')

/** Letters begun and not yet sent. */
export function DraftsView() {
  const { data = [], isPending } = useDrafts()
  const go = useNavigate()
  useKeys({ undo: () => void undo() })
  return (
    <main className="mx-auto flex min-h-0 w-full max-w-4xl flex-1 flex-col px-4 pb-3" aria-label="Drafts">
      <h1 className="py-2 text-[20px] font-bold">Drafts</h1>
      {!isPending && data.length === 0 && <p className="p-6 text-ink-2">No letter is half written.</p>}
      {data.map((d) => (
        <button
          key={d.id}
          className="flex min-h-11 items-center gap-3 rounded-[12px] px-3 text-left hover:bg-paper"
          onClick={() => {
            resume(d)
            void go(d.conversation ? { to: '/letter/$id', params: { id: String(d.conversation) } } : { to: '/inbox' })
          }}
        >
          <span className="w-40 shrink-0 truncate font-semibold">{d.writing.to.join(', ') || 'nobody yet'}</span>
          <span className="min-w-0 flex-1 truncate">{d.writing.subject || '(no subject)'}</span>
          <span className="text-[13px] text-ink-3">{stamp(d.updatedAt)}</span>
        </button>
      ))}
    </main>
  )
}
