import { Link, useNavigate, useSearch } from '@tanstack/react-router'
import {
  AudioLines,
  CalendarDays,
  Clapperboard,
  Download,
  FileArchive,
  FileText,
  File as FileSign,
  Image,
  Mail,
  Presentation,
  ScrollText,
  Table2,
  type LucideIcon,
} from 'lucide-react'
import { useDeferredValue, useMemo, useRef, useState } from 'react'
import type { LetterFile } from '../api/client'
import { useAttached, type AttachedAsk } from '../api/queries'
import { Preview } from '../attached/Preview'
import { Choice } from '../kit/Choice'
import { CouldNotRead } from '../kit/CouldNotRead'
import { Rows, useRows } from '../kit/Rows'
import { undo } from '../state/commands'
import { focusOn } from '../state/focus'
import { useRowFocus, useRowKeys } from '../state/rows'
import { size } from '../state/time'

const signs: Record<LetterFile['sort'], LucideIcon> = {
  picture: Image,
  pdf: ScrollText,
  text: FileText,
  table: Table2,
  slides: Presentation,
  calendar: CalendarDays,
  letter: Mail,
  sound: AudioLines,
  film: Clapperboard,
  packed: FileArchive,
  other: FileSign,
}

const orders = [
  ['newest', 'Newest first'],
  ['largest', 'Largest first'],
  ['name', 'By name'],
  ['sender', 'By sender'],
] as const

const keyOf = (f: LetterFile) => `${f.letter}-${f.part}`

/** The files of all letters, by what they are, with what each shows at its beginning. */
export function AttachedView() {
  const asked = useSearch({ strict: false }) as { near?: string }
  const go = useNavigate()
  const [typed, setTyped] = useState(asked.near ?? '')
  const [sort, setSort] = useState<LetterFile['sort']>()
  const [order, setOrder] = useState<AttachedAsk['order']>('newest')
  const [open, setOpen] = useState(false) // on a phone
  const near = useDeferredValue(typed.trim())
  const { data, isError, error, refetch, fetchNextPage, hasNextPage, isFetchingNextPage } = useAttached({
    sort,
    near,
    order,
  })
  const rows = useMemo(() => (data?.pages ?? []).flatMap((p) => p.files), [data])
  const list = useRowFocus<LetterFile, string, LetterFile>({
    rows,
    keyOf,
    pick: (f) => f,
    single: true,
    onMove: (f) => focusOn(`file-${keyOf(f)}`),
  })
  const { focus } = list
  const scroller = useRef<HTMLDivElement>(null)
  const at = useMemo(() => rows.findIndex((f) => f === focus), [rows, focus])
  const virtual = useRows<LetterFile>(rows, scroller, () => 52, { focus: { key: focus && keyOf(focus), at }, keyOf })
  const first = data?.pages[0]
  const toLetter = (f: LetterFile) => void go({ to: '/letter/$id', params: { id: String(f.conversation) } })
  useRowKeys(list, { undo: () => void undo(), open: () => focus && toLetter(focus) })
  const more = () => hasNextPage && !isFetchingNextPage && void fetchNextPage()
  return (
    <main className="relative flex min-h-0 flex-1 gap-3 px-4 pb-3 max-md:px-2" aria-label="Attached">
      <section
        aria-label="Files"
        className={`flex min-h-0 w-full flex-col md:w-[440px] md:shrink-0 ${open ? 'max-md:invisible max-md:absolute max-md:inset-x-2 max-md:inset-y-0 max-md:!w-auto' : ''}`}
      >
        <div className="flex items-center gap-2 py-2">
          <h1 className="flex-1 text-[20px] font-bold">
            Attached <span className="text-[15px] font-normal text-ink-3">{first?.n.toLocaleString()}</span>
          </h1>
          <Choice label="Order" className="btn btn-small" value={order} options={orders} onChange={setOrder} />
        </div>
        <input
          className="field mb-1.5"
          type="search"
          aria-label="Files by name, sender or subject"
          placeholder="File, sender, subject"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => {
            const by = { ArrowDown: 1, ArrowUp: -1 }[e.key]
            if (by === undefined) return
            e.preventDefault()
            list.move(by)
          }}
        />
        {first && first.sorts.length > 1 && (
          <div role="group" aria-label="What they are" className="flex flex-wrap gap-1 pb-1.5">
            {first.sorts.map((s) => (
              <button
                key={s.sort}
                aria-pressed={sort === s.sort}
                className={`btn btn-small ${sort === s.sort ? 'btn-main' : ''}`}
                onClick={() => setSort(sort === s.sort ? undefined : s.sort)}
              >
                {s.name} <span className="font-normal opacity-80">{s.n.toLocaleString()}</span>
              </button>
            ))}
          </div>
        )}
        <div
          ref={scroller}
          className="relative min-h-0 flex-1 overflow-y-auto p-1"
          role="group"
          aria-label="Files of letters"
          tabIndex={-1}
          onScroll={(e) => {
            const s = e.currentTarget
            if (s.scrollHeight - s.scrollTop - s.clientHeight < 600) more()
          }}
        >
          {!data && !isError && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
          {isError && !data && <CouldNotRead what="The files" error={error} again={() => void refetch()} />}
          {data && rows.length === 0 && (
            <p className="p-4 text-ink-2">
              {near || sort ? 'No file is like that.' : 'No letter has anything attached yet.'}
            </p>
          )}
          <Rows virtual={virtual} items={rows}>
            {(f, { top }, key, measure) => {
              const Sign = signs[f.sort]
              return (
                <div key={key} {...measure} className="absolute inset-x-0 px-px pb-0.5" style={{ top }}>
                  <div
                    id={`file-${keyOf(f)}`}
                    tabIndex={-1}
                    data-home={f === focus || undefined}
                    role="group"
                    aria-label={`${f.name}, from ${f.from}`}
                    aria-current={f === focus || undefined}
                    className={`flex items-center gap-2.5 rounded-lg px-2 py-1.5 !outline-none ${f === focus ? 'bg-tide-2 text-ink-2 ring-1 ring-tide' : 'text-ink-3 hover:bg-tide-3'}`}
                    onClick={() => {
                      list.focusOn(keyOf(f))
                      setOpen(true)
                      focusOn(`file-${keyOf(f)}`)
                    }}
                  >
                    <Sign className="size-4 shrink-0" aria-hidden />
                    <span className="min-w-0 flex-1">
                      <button className="block max-w-full truncate text-left leading-6 font-medium text-ink hover:underline">
                        {f.name}
                      </button>
                      <span className="block truncate text-[13px]">
                        {f.from}
                        {f.subject && ` · ${f.subject}`}
                      </span>
                    </span>
                    <span className="shrink-0 text-right text-[13px]">
                      {size(f.size)}
                      <span className="block">{f.at}</span>
                    </span>
                  </div>
                </div>
              )
            }}
          </Rows>
          {first?.older && !hasNextPage && (
            <p className="p-2 text-[13px] text-ink-2">Files of older letters are found by the letters’ search.</p>
          )}
        </div>
      </section>
      <section
        aria-label="What is in it"
        tabIndex={-1}
        className={`relative min-h-0 min-w-0 flex-1 overflow-y-auto rounded-[14px] border border-line bg-paper p-5 max-md:p-3 ${open ? '' : 'max-md:hidden'}`}
      >
        <button className="btn btn-small mb-2 md:hidden" onClick={() => setOpen(false)}>
          All files
        </button>
        {focus ? (
          <>
            <h2 className="text-[18px] font-bold break-words">{focus.name}</h2>
            <p className="pb-2 text-[14px] text-ink-2">
              {size(focus.size)} from {focus.from}, {focus.at}: {focus.subject || '(no subject)'}
            </p>
            <div className="flex flex-wrap gap-1.5 border-b-2 border-deep pb-3">
              <a className="btn btn-small btn-main" href={`/api/letters/${focus.letter}/parts/${focus.part}?save=1`}>
                <Download className="size-3.5" aria-hidden /> Save
              </a>
              <Link className="btn btn-small" to="/letter/$id" params={{ id: String(focus.conversation) }}>
                <Mail className="size-3.5" aria-hidden /> The letter <span className="key">Space</span>
              </Link>
            </div>
            <div className="pt-3">
              <Preview key={keyOf(focus)} file={focus} />
            </div>
          </>
        ) : (
          data && <p className="p-3 text-ink-2">What a file shows at its beginning stands here.</p>
        )}
      </section>
    </main>
  )
}
