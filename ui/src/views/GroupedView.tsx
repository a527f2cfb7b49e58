import { ChevronDown, ChevronRight, Star } from 'lucide-react'
import { useMemo, useRef, useState, type ReactNode } from 'react'
import { errorText, type Conversation, type Heap, type Row } from '../api/client'
import { client, conversationQuery, useConversation } from '../api/queries'
import { useDeciding } from '../deciding/useDeciding'
import { CouldNotRead } from '../kit/CouldNotRead'
import { Rows, useRows } from '../kit/Rows'
import { Deck } from '../letters/Deck'
import { readOn, SheetBeside } from '../letters/SheetBeside'
import { carryOut, decisionOn, told, undo, type DecisionBody } from '../state/commands'
import { failed } from '../state/failed'
import { focusOn as giveFocusTo } from '../state/focus'
import {
  asTargets,
  membersNow,
  readMembers,
  useGroupRows,
  useGroups,
  useMembersAhead,
  type Ask,
  type Group,
} from '../state/grouping'
import { useHidden } from '../state/hiding'
import type { Handlers } from '../state/keys'
import { useLatest } from '../state/latest'
import { targetOf, type Targets } from '../state/listing'
import { star } from '../state/marking'
import { useRowFocus, useRowKeys } from '../state/rows'
import { sittingDown } from '../state/sitting'
import { sortTo } from '../state/sorting'
import { stamp } from '../state/time'
import { toast } from '../state/toast'
import { composing } from '../state/writing'

/** What can take the focus: a group, a letter of one that is unfolded, or what is more of it. */
interface Item {
  key: string
  group: Group
  row?: Row
  more?: boolean
}

const keyOf = (i: Item) => i.key
const idOf = (i: Item) => `grouped-${i.row ? `row-${i.row.id}` : encodeURIComponent(i.key)}`
const targetsOf = (i: Item): Targets => (i.row ? [targetOf(i.row)] : [])

const asSeen = (t: Targets[number]) => `${t.id} at ${t.version ?? 0}`

/** How many of a group a key acts on: what is starred stays, unless nothing else is left. */
const acted = (g: Group) => g.n - g.starred || g.n

/** A list by groups. A group takes the focus and every decision, however many are in it. */
export function GroupedView({ ask, head, empty }: { ask: Ask; head: ReactNode; empty: ReactNode }) {
  const { data, isPending, isError, error, refetch } = useGroups(ask)
  const hidden = useHidden()
  /** How many pages of a group are shown, where somebody has unfolded or folded it. */
  const [turned, setTurned] = useState<ReadonlyMap<string, number>>(new Map())
  const unfolded = useMemo(
    () =>
      new Map(
        (data?.groups ?? [])
          .map((g) => [g.key, turned.get(g.key) ?? (g.open ? 1 : 0)] as const)
          .filter(([, pages]) => pages > 0),
      ),
    [data, turned],
  )
  /** Groups that were decided on, as they were drawn: they go at once. */
  const [gone, setGone] = useState<ReadonlySet<Group>>(new Set())
  const [reading, setReading] = useState(false)
  /** The group of which only starred letters are left that a key was pressed on. */
  const [warned, setWarned] = useState('')
  /** What was decided on here, as it stood: until the group is read anew it is still among it. */
  const taken = useRef(new Set<string>())
  const rows = useGroupRows(ask, unfolded)
  const until = data?.until ?? 0
  const items = useMemo(
    () =>
      (data?.groups ?? [])
        .filter((g) => !gone.has(g))
        .flatMap((group): Item[] => {
          const open = unfolded.has(group.key) ? rows.get(group.key) : undefined
          const there = (open?.rows ?? []).filter((r) => !hidden.has(r.id))
          return [
            { key: `group ${group.key}`, group },
            ...there.map((row): Item => ({ key: `row ${row.id}`, group, row })),
            ...(open?.more ? [{ key: `more ${group.key}`, group, more: true }] : []),
          ]
        }),
    [data, gone, hidden, rows, unfolded],
  )
  const list = useRowFocus<Item, string, Targets>({
    rows: items,
    keyOf,
    pick: targetsOf,
    onMove: (i) => giveFocusTo(idOf(i)),
  })
  const { focus } = list
  const onGroup = focus && !focus.row && list.selected.size === 0 ? focus.group : undefined
  useMembersAhead(ask, onGroup?.key, until)
  const { data: open } = useConversation(focus?.row?.id)
  const many = list.selected.size > 0 ? [...list.selected.values()].flat().length : onGroup ? acted(onGroup) : 1

  const chosen = (): Targets => {
    if (list.selected.size > 0) return [...list.selected.values()].flat()
    if (focus?.row) return targetsOf(focus)
    const members = onGroup && membersNow(ask, onGroup.key, until)
    if (!members) return []
    const there = (list: typeof members.rest) => asTargets(list, ask.place).filter((t) => !taken.current.has(asSeen(t)))
    const rest = there(members.rest)
    return rest.length > 0 || warned !== onGroup.key ? rest : there(members.starred)
  }
  /** Does something once it is known what is in the group in focus. */
  const whenRead = (act: (key?: KeyboardEvent) => void) => (key?: KeyboardEvent) => {
    if (!onGroup || membersNow(ask, onGroup.key, until)) return act(key)
    void readMembers(ask, onGroup.key, until).then(
      () => act(key),
      (e: unknown) => failed(errorText(e, 'The group could not be read.')),
    )
  }
  const decide = (body: DecisionBody, on: Targets) => {
    const group = onGroup
    if (on.length === 0) {
      if (group && !membersNow(ask, group.key, until)) return whenRead(() => decide(body, chosen()))()
      if (!group || group.starred === 0) return
      setWarned(group.key)
      return void toast(`${group.starred} starred stay. Press the key again to take them.`)
    }
    list.clear()
    for (const t of on) taken.current.add(asSeen(t))
    setWarned(group && group.starred > 0 && on.length < group.n ? group.key : '')
    if (group && group.starred === 0) setGone((was) => new Set([...was, group]))
    void carryOut(
      decisionOn(
        body,
        on,
        on.map((t) => t.id),
      ),
    ).then((o) => {
      if (!o) return (taken.current.clear(), setGone(new Set()))
      told(o)
      if (group && group.starred > 0 && on.length < group.n) toast(`${group.starred} starred stay there.`)
    })
  }
  const deciding = useDeciding({
    targets: chosen,
    ...(focus?.row ? { row: focus.row } : {}),
    ...(open ? { open } : {}),
    rowOf: (id) => items.find((i) => i.row?.id === id)?.row,
    selected: onGroup ? Math.max(many, 2) : many > 1 ? many : 0,
    ...(onGroup ? { what: `${many} from ${onGroup.label}` } : {}),
    place: ask.place === 'found' ? 'search' : ask.place,
    decide,
    stay: (body, on) => void carryOut(decisionOn(body, on)),
    write: (start: (c: Conversation) => void) => {
      const row = focus?.row
      if (!row) return
      void client.fetchQuery(conversationQuery(row.id)).then((c) => {
        setReading(true)
        start(c)
      })
    },
    undo: () => void undo(),
  })
  const unfold = (key: string) => setTurned((was) => new Map([...was, [key, unfolded.has(key) ? 0 : 1]]))
  const further = (key: string) => setTurned((was) => new Map([...was, [key, (unfolded.get(key) ?? 0) + 1]]))
  const keys: Handlers = {
    ...Object.fromEntries(Object.entries(deciding.press).map(([action, act]) => [action, whenRead(act)])),
    undo: () => {
      taken.current.clear()
      setGone(new Set())
      void undo()
    },
    star: whenRead(() => {
      const on = chosen().map((t) => t.id)
      if (focus?.row) return open && star(open)
      if (on.length > 0) void carryOut({ path: 'mark', body: { on, mark: 'star', off: false } }).then(told)
    }),
    flag: whenRead(() => void carryOut({ path: 'flag', body: { on: chosen() } }).then(told)),
    label: whenRead(() => deciding.ask('label')),
    ...(onGroup && ask.place !== 'found'
      ? {
          sit: () =>
            sittingDown.set({
              heap: {
                place: ask.place as Heap['place'],
                by: ask.by,
                key: onGroup.key,
                words: onGroup.label,
                ...(ask.account ? { account: ask.account } : {}),
              },
            }),
        }
      : {}),
    ...(ask.place === 'inbox' ? { toReading: whenRead(() => (list.clear(), sortTo(chosen(), 'reading'))) } : {}),
    open: () => {
      if (!focus) return
      if (focus.more) return further(focus.group.key)
      if (!focus.row) return unfold(focus.group.key)
      if (!reading) return setReading(true)
      if (!readOn()) list.move(1)
    },
  }
  useRowKeys(list, keys, () => setReading(false))
  const scroller = useRef<HTMLDivElement>(null)
  const virtual = useRows(items, scroller, (i) => (i.row ? 38 : 46), {
    focus: { key: focus?.key, at: list.index },
    keyOf,
  })
  const writing = composing.use()
  const onUndo = useLatest(() => keys.undo?.(new KeyboardEvent('keydown')))
  const sheet = reading && focus?.row !== undefined
  return (
    <>
      <main className="flex min-h-0 flex-1 gap-3 px-4 max-md:px-2" aria-label="Letters by group">
        <div className={`@container flex min-h-0 min-w-0 flex-1 flex-col ${sheet ? 'max-lg:hidden' : ''}`}>
          {head}
          {isPending && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
          {isError && !data && <CouldNotRead what="The groups" error={error} again={refetch} />}
          {data && items.length === 0 && empty}
          <div
            ref={scroller}
            data-scroller
            role="group"
            aria-label="Groups"
            className="min-h-0 flex-1 overflow-y-auto pr-1"
            tabIndex={-1}
          >
            <Rows virtual={virtual} items={items}>
              {(item, { top }, key, measure) => (
                <div key={key} {...measure} className="absolute inset-x-px" style={{ top }}>
                  <div
                    id={idOf(item)}
                    data-grouped
                    role="group"
                    aria-label={
                      item.row
                        ? item.row.title
                        : `${item.group.label}, ${item.group.n}, ${item.group.unread} unread, ${item.group.starred} starred`
                    }
                    tabIndex={item === focus ? 0 : -1}
                    aria-current={item === focus || undefined}
                    className={`outline-none ${item.row ? 'border-b border-line bg-paper pl-8' : 'mt-1 rounded-[10px] bg-paper'} ${item === focus ? 'relative z-10 rounded-lg ring-2 ring-tide ring-inset' : ''} ${list.selected.has(item.key) ? '!bg-tide-2' : ''}`}
                    onClick={() => {
                      list.focusOn(item.key)
                      if (item.row) setReading(true)
                      else if (item.more) further(item.group.key)
                      else unfold(item.group.key)
                    }}
                  >
                    {item.row ? (
                      <Letter row={item.row} />
                    ) : item.more ? (
                      <p className="px-8 py-2 text-[14px] text-ink-2">More of {item.group.label}…</p>
                    ) : (
                      <Head group={item.group} open={unfolded.has(item.group.key)} />
                    )}
                  </div>
                </div>
              )}
            </Rows>
          </div>
        </div>
        {sheet && (
          <SheetBeside
            id={focus.row?.id}
            open={open}
            onBack={() => setReading(false)}
            onLabel={() => deciding.ask('label')}
          />
        )}
      </main>
      {!writing && <Deck keys={deciding.deck} routines={deciding.routines} onUndo={onUndo} />}
      {deciding.dialogs}
    </>
  )
}

function Head({ group, open }: { group: Group; open: boolean }) {
  const Fold = open ? ChevronDown : ChevronRight
  return (
    <div className="flex min-h-[42px] cursor-pointer items-center gap-3 px-3">
      <button
        tabIndex={-1}
        aria-label={`${open ? 'Fold' : 'Unfold'} ${group.label}`}
        aria-expanded={open}
        className="grid size-6 shrink-0 place-items-center rounded-md text-ink-3 hover:bg-tide-3"
      >
        <Fold className="size-4" aria-hidden />
      </button>
      <b className="min-w-0 truncate font-semibold">{group.label}</b>
      <span className="min-w-6 rounded-full bg-shore-2 px-2 text-center text-[13px] tabular-nums">{group.n}</span>
      <span className="flex-1" />
      {group.starred > 0 && (
        <span className="flex items-center gap-1 text-[13px] text-lamp">
          <Star className="size-3.5 fill-current" aria-hidden /> {group.starred}{' '}
          <span className="sr-only">starred</span>
        </span>
      )}
      {group.unread > 0 && <span className="text-[13px] text-ink-2">{group.unread} unread</span>}
      <time className="w-28 shrink-0 text-right text-[13px] text-ink-3 max-md:hidden" dateTime={group.at}>
        {stamp(group.at)}
      </time>
    </div>
  )
}

function Letter({ row }: { row: Row }) {
  return (
    <div className="flex h-[38px] items-center gap-3 px-2">
      <span className={`w-40 shrink-0 truncate ${row.unread ? 'font-bold' : 'font-semibold'} max-md:w-24`}>
        {row.from.name || row.from.email || 'No sender named'}
      </span>
      <span className="min-w-0 flex-1 truncate">
        {row.title} <span className="text-ink-3">{row.ask}</span>
      </span>
      {row.star && <Star className="size-3.5 shrink-0 fill-current text-lamp" aria-label="starred" />}
      <time className="shrink-0 text-[13px] text-ink-3" dateTime={row.at}>
        {stamp(row.at)}
      </time>
    </div>
  )
}
