import { useNavigate } from '@tanstack/react-router'
import {
  Bell,
  CalendarDays,
  ChevronDown,
  ChevronRight,
  Ellipsis,
  Hourglass,
  RotateCcw,
  Send,
  SquareCheck,
} from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useMemo, useRef, useState } from 'react'
import { toast } from '../state/toast'
import { api, errorText, take, type AheadGroup, type Entry } from '../api/client'
import { useAhead } from '../api/queries'
import { LaterDialog } from '../letters/LaterDialog'
import { Beside } from '../letters/Beside'
import { Rows, useRows } from '../kit/Rows'
import { appointing } from '../state/appointing'
import { carryOut, told, undo, type EntryRef } from '../state/commands'
import { useHidden, withoutHidden } from '../state/hiding'
import { failed } from '../state/failed'
import { focusOn } from '../state/focus'
import { resume } from '../state/writing'
import { useRowFocus, useRowKeys } from '../state/rows'
import { CouldNotRead } from '../kit/CouldNotRead'

const kinds = {
  return: { icon: RotateCcw, what: 'comes back', colour: 'text-tide' },
  limit: { icon: Hourglass, what: 'waiting limit', colour: 'text-heather' },
  reminder: { icon: Bell, what: 'reminder', colour: 'text-lamp' },
  due: { icon: SquareCheck, what: 'follow-up due', colour: 'text-ink' },
  appointment: { icon: CalendarDays, what: 'appointment', colour: 'text-heather' },
  send: { icon: Send, what: 'letter to be sent', colour: 'text-tide' },
} as const

type Item = { head: AheadGroup; index: number; folded: boolean; count: number } | { entry: Entry }
const idOfEntry = (e: EntryRef) => `entry-${e.kind}-${e.id}`
const keyOfEntry = (e: EntryRef) => `${e.kind}:${e.id}` as const

/** All that is to come, in the order in which it comes. */
export function AheadView() {
  const { data, isPending, isError, error, refetch } = useAhead()
  const go = useNavigate()
  const [turned, setTurned] = useState<ReadonlySet<string>>(new Set())
  const [moving, setMoving] = useState<Entry[]>()
  const [over, setOver] = useState<string>()
  const [hovered, setHovered] = useState<string>()
  const scroller = useRef<HTMLDivElement>(null)
  const hidden = useHidden()
  const entries = useMemo(() => withoutHidden(data?.entries ?? [], hidden), [data, hidden])
  const items = useMemo<Item[]>(() => {
    const out: Item[] = []
    let last: Extract<Item, { head: AheadGroup }> | undefined
    for (const entry of entries) {
      const head = data?.groups[entry.group]
      if (!head) continue
      if (last?.index !== entry.group) {
        last = { head, index: entry.group, folded: head.fold !== turned.has(head.key), count: 0 }
        out.push(last)
      }
      last.count++
      if (!last.folded) out.push({ entry })
    }
    return out
  }, [data, entries, turned])
  const shown = useMemo(() => items.flatMap((i) => ('entry' in i ? [i.entry] : [])), [items])
  const list = useRowFocus<Entry, string, Entry>({
    rows: shown,
    keyOf: keyOfEntry,
    pick: (e) => e,
    onMove: (e) => focusOn(idOfEntry(e)),
  })
  const { focus, selected: chosen } = list
  const at = useMemo(() => items.findIndex((i) => 'entry' in i && i.entry === focus), [items, focus])
  const virtual = useRows(items, scroller, (item) => ('head' in item ? 44 : 50), {
    focus: { key: focus && keyOfEntry(focus), at },
  })

  const targets = (): Entry[] =>
    chosen.size > 0 ? entries.filter((e) => chosen.has(keyOfEntry(e))) : focus ? [focus] : []
  const act = (action: 'move' | 'cancel' | 'fetch' | 'skip', some: Entry[], when?: string) => {
    if (action === 'fetch' && some.length > 0 && some.every((e) => e.recurs)) return act('skip', some)
    const taken = some.filter((e) => action !== 'fetch' || e.kind === 'return')
    if (taken.length === 0) return toast('Only letters that were put off can be fetched back.')
    const on = taken.map((e) => ({ kind: e.kind, id: e.id, version: e.version }))
    list.clear()
    void carryOut({
      path: 'ahead',
      body: { action, on, ...(when ? { when } : {}) },
      ...(action === 'move' ? {} : { hides: taken.map(keyOfEntry) }),
    }).then(told)
  }
  /** A letter that waits is written on: until it is sent again it is a draft. */
  const writeOn = async (e: Entry) => {
    const done = await carryOut({
      path: 'ahead',
      body: { action: 'cancel', on: [{ kind: e.kind, id: e.id }] },
      hides: [keyOfEntry(e)],
    })
    if (!done || !e.draft) return
    told(done)
    const draft = (await take(api.GET('/api/drafts'))).find((d) => d.id === e.draft)
    if (!draft) return
    resume(draft)
    void go(e.conversation ? { to: '/letter/$id', params: { id: String(e.conversation) } } : { to: '/inbox' })
  }
  const open = (e: Entry) =>
    e.kind === 'send'
      ? void writeOn(e).catch((x: unknown) => failed(errorText(x, 'The letter could not be opened.')))
      : e.kind === 'appointment'
        ? appointing.set({ id: e.id })
        : e.conversation
          ? void go({ to: '/letter/$id', params: { id: String(e.conversation) } })
          : void go({ to: '/follow-ups', search: { open: e.followUp } })
  useRowKeys(list, {
    undo: () => void undo(),
    open: () => focus && open(focus),
    fetch: () => act('fetch', targets()),
    done: () => act('fetch', targets()),
    later: () => targets().length > 0 && setMoving(targets()),
    bin: () => act('cancel', targets()),
  })
  const drop = (g: AheadGroup, refs: string) => {
    setOver(undefined)
    const keys = new Set(refs.split(','))
    const dropped = entries.filter((e) => keys.has(keyOfEntry(e)))
    const exact = dropped.length === 1 ? /(?<!around) (\d\d:\d\d)$/.exec(dropped[0]?.phrase ?? '')?.[1] : undefined
    if (g.day && dropped.length > 0) act('move', dropped, exact ? `${g.day} at ${exact}` : g.day)
  }
  return (
    <Beside id={focus?.conversation}>
      <main className="flex min-h-0 w-full flex-1 flex-col pb-3" aria-label="Ahead">
        <div className="flex flex-wrap items-baseline gap-3 py-2">
          <h1 className="text-[20px] font-bold">Ahead</h1>
          <span className="text-[13px] text-ink-3 max-md:hidden">
            <span className="key">Space</span> open <span className="key">3</span> move <span className="key">B</span>{' '}
            fetch back <span className="key">7</span> cancel <span className="key">X</span> select · drag onto a day
          </span>
          <span className="flex-1" />
          {chosen.size > 0 && (
            <span className="flex items-center gap-2" role="status">
              <b>{chosen.size} selected</b>
              <button className="btn btn-small" onClick={() => setMoving(targets())}>
                Move…
              </button>
              <button className="btn btn-small" onClick={() => act('cancel', targets())}>
                Cancel them
              </button>
              <button className="btn btn-small" onClick={() => list.clear()}>
                None
              </button>
            </span>
          )}
        </div>
        {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
        {isError && !data && <CouldNotRead what="What is ahead" error={error} again={refetch} />}
        {data && entries.length === 0 && (
          <p className="p-6 text-ink-2">Nothing is to come. Press 3 on a letter to send it ahead.</p>
        )}
        <div
          ref={scroller}
          data-scroller
          role="group"
          aria-label="What is ahead"
          className="min-h-0 flex-1 overflow-y-auto"
          tabIndex={-1}
        >
          <Rows virtual={virtual} items={items}>
            {(item, style, key) => {
              if ('head' in item)
                return (
                  <Head
                    key={key}
                    item={item}
                    style={style}
                    over={over === item.head.key}
                    onOver={(on) => setOver(on ? item.head.key : undefined)}
                    onDrop={(refs) => drop(item.head, refs)}
                    onFold={() =>
                      setTurned((was) => {
                        const now = new Set(was)
                        if (!now.delete(item.head.key)) now.add(item.head.key)
                        return now
                      })
                    }
                  />
                )
              const e = item.entry
              return (
                <Line
                  key={key}
                  entry={e}
                  style={style}
                  focused={e === focus}
                  chosen={chosen.has(keyOfEntry(e))}
                  hovered={hovered === keyOfEntry(e)}
                  onHover={() => setHovered(keyOfEntry(e))}
                  drags={() => (chosen.has(keyOfEntry(e)) ? [...chosen.keys()] : [keyOfEntry(e)]).join(',')}
                  onFocus={() => list.focusOn(keyOfEntry(e))}
                  onToggle={() => list.toggle(e)}
                  onOpen={() => open(e)}
                  onMove={() => setMoving([e])}
                  onFetch={() => act('fetch', [e])}
                  onCancel={() => act('cancel', [e])}
                />
              )
            }}
          </Rows>
          {data?.more && <p className="p-4 text-ink-3">There is more further on; these are the first ten thousand.</p>}
        </div>
        {moving && moving[0] && (
          <LaterDialog
            title="Move to"
            hint={moving.length > 1 ? `${moving.length} entries` : moving[0].title}
            initial={moving.length === 1 ? moving[0].phrase : ''}
            about={
              moving.every((e) => e.kind === 'return') ? { for: moving[0].id, count: moving.length } : { plain: true }
            }
            onClose={() => setMoving(undefined)}
            onTake={(p) => {
              setMoving(undefined)
              act('move', moving, p.phrase)
            }}
          />
        )}
      </main>
    </Beside>
  )
}

function Head(props: {
  item: { head: AheadGroup; folded: boolean; count: number }
  style: React.CSSProperties
  over: boolean
  onOver: (on: boolean) => void
  onDrop: (refs: string) => void
  onFold: () => void
}) {
  const { head, folded, count } = props.item
  const Arrow = folded ? ChevronRight : ChevronDown
  return (
    <div
      className={`absolute inset-x-0 flex items-end pb-1 ${props.over ? 'rounded-lg bg-tide-2' : ''}`}
      style={props.style}
      onDragOver={(e) => {
        if (!head.day) return
        e.preventDefault()
        props.onOver(true)
      }}
      onDragLeave={() => props.onOver(false)}
      onDrop={(e) => {
        e.preventDefault()
        props.onDrop(e.dataTransfer.getData('text/x-ebbe-entries'))
      }}
    >
      <h2 className="min-w-0 flex-1">
        <button
          aria-expanded={!folded}
          className="flex w-full items-center gap-1.5 rounded-lg px-2 py-1 text-left text-[13px] font-semibold text-ink-2 hover:bg-paper"
          onClick={props.onFold}
        >
          <Arrow className="size-4" aria-hidden />
          {head.label} <span className="font-normal text-ink-3">{count}</span>
          {head.note && <span className="ml-auto text-[12px] font-normal text-ink-3">{head.note}</span>}
          {head.load && head.load.planned > 0 && (
            <span className={`ml-auto text-[12px] font-normal ${head.load.over ? 'text-buoy' : 'text-ink-3'}`}>
              {head.load.free === 0
                ? `${head.load.planned} min, no working time`
                : `${head.load.planned} min planned for ${head.load.free} free${head.load.over ? ': over-full' : ''}`}
            </span>
          )}
        </button>
      </h2>
    </div>
  )
}

function Line(props: {
  entry: Entry
  style: React.CSSProperties
  focused: boolean
  chosen: boolean
  hovered: boolean
  onHover: () => void
  drags: () => string
  onFocus: () => void
  onToggle: () => void
  onOpen: () => void
  onMove: () => void
  onFetch: () => void
  onCancel: () => void
}) {
  const { entry: e } = props
  const kind = kinds[e.kind]
  const acting = props.focused || props.hovered
  return (
    <div className="absolute inset-x-0 px-1 py-0.5 [contain:size_layout_style]" style={props.style}>
      <div
        draggable
        data-entry
        data-home={props.focused || undefined}
        id={idOfEntry(e)}
        tabIndex={-1}
        role="group"
        aria-label={`${kind.what}, ${e.words}: ${[e.person, e.title, e.note].filter(Boolean).join(', ')}`}
        aria-current={props.focused}
        onDragStart={(ev) => {
          ev.dataTransfer.setData('text/x-ebbe-entries', props.drags())
          ev.dataTransfer.effectAllowed = 'move'
        }}
        onClick={props.onFocus}
        onMouseEnter={props.onHover}
        className={`flex h-full items-center gap-3 rounded-[12px] !outline-none border px-3 ${props.focused ? 'border-tide bg-paper ring-1 ring-tide' : props.chosen ? 'border-transparent bg-tide-2' : 'border-transparent bg-paper/60'}`}
      >
        <input
          type="checkbox"
          checked={props.chosen}
          onChange={props.onToggle}
          aria-label={`Select ${e.title}`}
          className="size-4 shrink-0 accent-[var(--tide)] max-md:hidden"
        />
        <span title={kind.what} className={`shrink-0 ${kind.colour}`}>
          <kind.icon className="size-4" aria-hidden />
          <span className="sr-only">{kind.what}</span>
        </span>
        <span className="w-32 shrink-0 truncate font-semibold first-letter:uppercase max-md:w-28" title={e.words}>
          {e.words}
        </span>
        <button className="min-w-0 flex-1 text-left hover:underline" onClick={props.onOpen}>
          <span className="block truncate">
            {e.person && <b className="font-semibold">{e.person} </b>}
            {e.title}
          </span>
          {/* Beside what can be done there is no room for it on the line. */}
          {e.note && acting && <span className="block truncate text-[12px] leading-tight text-lamp">{e.note}</span>}
        </button>
        {e.note && !acting && (
          <span className="chip max-w-[34%] shrink-0 !bg-lamp-2 !text-lamp max-md:hidden" title={e.note}>
            <span className="truncate">{e.note}</span>
          </span>
        )}
        {/* What can be done stands where one is: less to read, and quicker. */}
        {acting && (
          <span className="flex shrink-0 gap-1.5">
            <button className="btn btn-small btn-tight" onClick={props.onMove} aria-label={`Move ${e.title}`}>
              Move…
            </button>
            {e.kind === 'return' && (
              <button
                className="btn btn-small btn-tight max-md:hidden"
                onClick={props.onFetch}
                aria-label={`Fetch back ${e.title}`}
              >
                Fetch back
              </button>
            )}
            {e.recurs && (
              <button
                className="btn btn-small btn-tight max-md:hidden"
                onClick={props.onFetch}
                aria-label={`Skip ${e.title} once`}
              >
                Skip once
              </button>
            )}
            <button
              className="btn btn-small btn-tight max-md:hidden"
              onClick={props.onCancel}
              aria-label={`Cancel ${e.title}`}
            >
              Cancel
            </button>
            <More {...props} />
          </span>
        )}
      </div>
    </div>
  )
}

/** On a phone there is room for one button; the others are in its menu. */
function More(props: {
  entry: Entry
  chosen: boolean
  onFetch: () => void
  onCancel: () => void
  onToggle: () => void
}) {
  const item = 'cursor-pointer rounded-lg px-3 py-2.5 outline-none data-[highlighted]:bg-tide-2'
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger className="btn btn-small btn-tight md:hidden" aria-label={`More for ${props.entry.title}`}>
        <Ellipsis className="size-4" aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          className="z-50 min-w-40 rounded-[12px] border border-line bg-paper p-1.5 shadow-float"
        >
          {props.entry.kind === 'return' && (
            <DropdownMenu.Item className={item} onSelect={props.onFetch}>
              Fetch back
            </DropdownMenu.Item>
          )}
          {props.entry.recurs && (
            <DropdownMenu.Item className={item} onSelect={props.onFetch}>
              Skip once
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item className={item} onSelect={props.onCancel}>
            Cancel
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={props.onToggle}>
            {props.chosen ? 'Deselect' : 'Select'}
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
