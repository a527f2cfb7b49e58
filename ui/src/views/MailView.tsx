import { useEffect, useState, type ComponentProps, type ReactNode } from 'react'
import { toast } from '../state/toast'
import { api, take, type Conversation, type DraftView } from '../api/client'
import { client, conversationQuery, useConversation, type ListKey } from '../api/queries'
import { part } from '../kit/part'
import { Deck } from '../letters/Deck'
import { Queue } from '../letters/Queue'
import { SaveAs } from '../letters/SaveAs'
import { Sheet } from '../letters/Sheet'
import { readOn } from '../letters/SheetBeside'
import { useDeciding } from '../deciding/useDeciding'
import { Staff } from '../days/Staff'
import { carryOut, decisionOn, undo } from '../state/commands'
import { targetOf, useListing, type Listing, type Targets } from '../state/listing'
import { letThrough } from '../state/gate'
import { ruleOfLetter } from '../state/rules'
import { useNavigate } from '@tanstack/react-router'
import { backFrom } from '../state/decisions'
import { useLatest } from '../state/latest'
import type { Handlers } from '../state/keys'
import { useAlike } from '../state/alike'
import { useRowKeys } from '../state/rows'
import { leavingOf, passOver, refuse, sortTo, type Kind, type Scope } from '../state/sorting'
import { composing, forget, leave, resume } from '../state/writing'
import { appointing } from '../state/appointing'

const SortDialog = part(() => import('../letters/SortDialog').then((m) => m.SortDialog))

/** A list of letters beside the sheet, over the decision deck: the inbox and
 * every other place. */
export function MailView({
  list,
  head,
  empty,
  staff,
  opens = true,
}: {
  list: ListKey
  head?: (listing: Listing) => ReactNode
  empty: ReactNode
  staff?: boolean
  /** Whether the letter in focus is opened. While what is looked for is typed, the one before stays. */
  opens?: boolean
}) {
  const listing = useListing(list, opens)
  const writing = composing.use()
  const { focus, selected } = listing
  const { data: open } = useConversation(opens ? focus?.id : undefined)
  const n = selected.size
  const [sorting, setSorting] = useState<Conversation>()

  // Whoever moves to another letter leaves the one being written as a draft.
  const focusId = focus?.id
  useEffect(() => {
    const at = composing.get()
    if (at?.conversation !== undefined && focusId !== undefined && at.conversation !== focusId) leave()
  }, [focusId])
  // A letter that could not be sent comes back, and its conversation with it.
  const { focusOn } = listing
  const about = writing?.conversation
  useEffect(() => {
    if (about !== undefined) focusOn(about)
  }, [about, focusOn])

  const write = (start: (c: Conversation) => void) => {
    if (n > 1) return toast('Answer and Hand on take one letter at a time: each goes to other people.')
    const id = n === 1 ? [...selected.keys()][0] : focus?.id
    if (id === undefined) return
    void client.fetchQuery(conversationQuery(id)).then((c) => {
      listing.focusOn(id)
      listing.setReading(true)
      start(c)
    })
  }
  const takeBack = async () => {
    const outcome = await undo()
    listing.clear()
    const first = outcome?.conversations?.[0]
    if (first !== undefined) listing.focusOn(first)
    if (outcome?.draft) {
      const drafts = await take(api.GET('/api/drafts')).catch((): DraftView[] => [])
      const draft = drafts.find((d) => d.id === outcome.draft)
      if (draft) resume(draft)
    }
  }
  const deciding = useDeciding({
    targets: listing.targets,
    row: focus,
    open,
    rowOf: (id) => listing.rows.find((r) => r.id === id),
    selected: n,
    place: list.name,
    decide: listing.decide,
    stay: (body, on) => void carryOut(decisionOn(body, on)),
    before: (on) => {
      if (writing?.conversation && on.some((t) => t.id === writing.conversation)) forget(writing.draft)
    },
    write,
    undo: () => void takeBack(),
  })
  const { press, ask, same } = deciding
  const { alike, words: alikeIn } = useAlike(listing)
  const moveTo = (on: Targets, kind: Kind, scope?: Scope) => {
    listing.clear()
    sortTo(on, kind, scope)
  }
  const go = useNavigate()
  const keys: Handlers = {
    ...press,
    undo: () => void takeBack(),
    star: () => listing.star(listing.targets()),
    flag: () => void carryOut({ path: 'flag', body: { on: listing.targets() } }),
    flagWhen: () => ask('flag'),
    appoint: () =>
      appointing.set(
        focus
          ? {
              conversation: focus.id,
              title: focus.title,
              invite: focus.from.name ? `${focus.from.name} <${focus.from.email}>` : focus.from.email,
            }
          : {},
      ),
    letThrough: () => focus && letThrough(focus.from.email),
    whoWrote: () => focus?.from.email && void go({ to: '/people', search: { of: focus.from.email } }),
    quiet: () => listing.quiet(listing.targets()),
    same: () => focus && same(focus),
    label: () => ask('label'),
    sort: () => open && setSorting(open),
    ruleOf: () => focus && void ruleOfLetter(focus.id, () => go({ to: '/rules' })),
    ...(alike ? { like: alike } : {}),
    ...(focus?.group.kind ? { passOver: () => focus.group.kind && passOver(focus.group.kind) } : {}),
    ...(list.name === 'inbox' ? { toReading: () => moveTo(listing.targets(), 'reading') } : {}),
    open: () => {
      if (!listing.reading && matchMedia('(max-width: 767px)').matches) return listing.setReading(true)
      if (!readOn()) listing.move(1)
    },
  }
  useRowKeys(listing, keys, () => listing.setReading(false))
  const onBack = useLatest(() => listing.setReading(false))
  const onStar = useLatest(() => focus && listing.star([targetOf(focus)]))
  const onFlag = useLatest(() => focus && void carryOut({ path: 'flag', body: { on: [targetOf(focus)] } }))
  const onLabel = useLatest(() => focus && ask('label', [targetOf(focus)]))
  const onAgain = useLatest((c: Conversation) => ask('later', [targetOf(c)], { row: c, again: c.again }))
  const onSame = useLatest((c: Conversation) => same(c))
  const onQuiet = useLatest(() => focus && listing.quiet([targetOf(focus)]))
  const onUndo = useLatest(() => void takeBack())

  // A letter is answered in sight of it: it takes the place of the list.
  const answering = writing?.conversation !== undefined && writing.conversation === focusId
  const showSheet = listing.reading || (writing !== undefined && writing.conversation === undefined)
  return (
    <>
      <main className="flex min-h-0 flex-1 gap-3 px-4 max-md:gap-0 max-md:px-2" aria-label="Letters">
        {staff && !answering && <Staff />}
        <div
          className={`${answering ? 'hidden' : 'flex'} min-h-0 w-[clamp(320px,39vw,500px)] shrink-0 flex-col max-md:w-full ${showSheet ? 'max-md:hidden' : ''}`}
        >
          {n > 0 ? <Selection listing={listing} words={alikeIn} alike={alike} /> : head?.(listing)}
          <Queue
            listing={listing}
            grouped={list.name === 'inbox'}
            empty={empty}
            swipe={(row, to) => {
              const on = [targetOf(row)]
              if (to === 'right') listing.decide({ kind: backFrom(row.place) ? 'inbox' : 'done' }, on)
              else ask('later', on)
            }}
          />
        </div>
        <div
          className={`flex min-h-0 min-w-0 flex-1 flex-col ${writing ? 'pb-3' : ''} ${showSheet ? '' : 'max-md:hidden'}`}
        >
          <Opened
            opens={opens}
            id={focus?.id}
            onBack={onBack}
            onStar={onStar}
            onFlag={onFlag}
            onLabel={onLabel}
            onAgain={onAgain}
            onSame={onSame}
            onQuiet={onQuiet}
          />
        </div>
      </main>
      {!writing && (
        <Deck keys={deciding.deck} routines={deciding.routines} onUndo={onUndo} shown={listing.reading || n > 0} />
      )}
      {deciding.dialogs}
      {sorting && (
        <SortDialog
          title={n > 1 ? `${n} letters` : sorting.title}
          {...sorting.sorted}
          leaving={leavingOf(sorting)}
          row={sorting}
          on={listing.targets()}
          onClose={() => setSorting(undefined)}
          onTake={(kind, scope) => {
            setSorting(undefined)
            moveTo(listing.targets(), kind, scope)
          }}
          onRefuse={(kind, scope) => {
            const on = listing.targets()
            setSorting(undefined)
            listing.clear()
            refuse(on, kind, scope)
          }}
        />
      )}
    </>
  )
}

/** The sheet of a letter; while none is opened, that of the one before. */
function Opened({ opens, id, ...props }: { opens: boolean } & ComponentProps<typeof Sheet>) {
  const [opened, setOpened] = useState(opens ? id : undefined)
  if (opens && opened !== id) setOpened(id)
  return <Sheet {...props} id={opened} />
}

function Selection(props: { listing: Listing; words: string; alike: (() => void) | undefined }) {
  const { listing } = props
  return (
    <div
      className="flex min-h-12 shrink-0 flex-wrap items-center gap-2 px-2 py-1 [&>button]:shrink-0 max-md:[&_.key]:hidden"
      role="status"
    >
      <span className="min-w-0 basis-full truncate font-semibold">
        {listing.selected.size} selected {props.words && <span className="font-normal">{props.words}</span>}
      </span>
      {props.alike && (
        <button className="btn btn-small" title="Select all like this" onClick={props.alike}>
          Like this <span className="key">Z</span>
        </button>
      )}
      <button className="btn btn-small" onClick={() => void listing.selectAll()}>
        All <span className="key">Ctrl A</span>
      </button>
      <button className="btn btn-small" onClick={listing.clear}>
        None <span className="key">Esc</span>
      </button>
      <span className="flex-1 max-md:hidden" />
      <SaveAs conversations={[...listing.selected.keys()]} />
    </div>
  )
}
