import { lazy, Suspense, useEffect, useState, type ReactNode } from 'react'
import { Flag } from 'lucide-react'
import { toast } from 'sonner'
import type { Conversation, Proposal, Row } from '../api/client'
import { client, conversationQuery, useConversation, useOverview, type ListKey } from '../api/queries'
import { Deck, type DeckKey } from '../letters/Deck'
import { Queue } from '../letters/Queue'
import { SaveAs } from '../letters/SaveAs'
import { Sheet } from '../letters/Sheet'
import { Staff } from '../days/Staff'
import type { Instead } from '../state/again'
import { carryOut, undo } from '../state/commands'
import { targetOf, useListing, type Listing, type Targets } from '../state/listing'
import { letThrough } from '../state/gate'
import { useCounted } from '../state/counted'
import { useKeys } from '../state/keys'
import { composing, forget, leave, resume } from '../state/writing'
import { api, take, type DraftView } from '../api/client'
import { appointing } from '../state/appointing'
import { startAnswer, startHandOn } from '../state/answering'
import { Opening } from '../kit/Opening'

const FollowUpDialog = lazy(() => import('../followups/FollowUpDialog').then((m) => ({ default: m.FollowUpDialog })))
const LabelDialog = lazy(() => import('../letters/LabelDialog').then((m) => ({ default: m.LabelDialog })))
const PhraseDialog = lazy(() => import('../days/PhraseDialog').then((m) => ({ default: m.PhraseDialog })))
const LaterDialog = lazy(() => import('../letters/LaterDialog').then((m) => ({ default: m.LaterDialog })))

type Asking =
  | { what: 'later'; on: Targets; row?: Row; again?: Proposal }
  | { what: 'follow-up' | 'file' | 'label' | 'flag'; on: Targets; row?: Row }

/** A list of letters beside the sheet, over the decision deck: the inbox and
 * every other place. */
export function MailView({
  list,
  head,
  empty,
  staff,
}: {
  list: ListKey
  head?: (listing: Listing) => ReactNode
  empty: ReactNode
  staff?: boolean
}) {
  const listing = useListing(list)
  const overview = useCounted(useOverview().data)
  const [asking, setAsking] = useState<Asking>()
  const writing = composing.use()
  const { focus, selected } = listing
  const { data: open } = useConversation(focus?.id)
  const n = selected.size
  const hint = n > 0 ? `${n} ${n === 1 ? 'letter' : 'letters'}` : (focus?.title ?? '')
  const none = !focus && n === 0

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

  const ask = (what: Asking['what'], on = listing.targets()) =>
    on.length > 0 && setAsking({ what, on, row: listing.rows.find((r) => r.id === on[0]?.id) })
  const single = (start: (c: Conversation) => void) => {
    if (n > 1) return toast('Answer and Hand on take one letter at a time: each goes to other people.')
    const id = n === 1 ? [...selected.keys()][0] : focus?.id
    if (id === undefined) return
    void client.fetchQuery(conversationQuery(id)).then((c) => {
      listing.focusOn(id)
      listing.setReading(true)
      start(c)
    })
  }
  const press = {
    answer: () => single(startAnswer),
    handOn: () => single(startHandOn),
    done: () => listing.decide({ kind: 'done' }, listing.targets()),
    later: () => ask('later'),
    followUp: () => ask('follow-up'),
    file: () => ask('file'),
    bin: () => listing.decide({ kind: 'bin' }, listing.targets()),
    fetch: () => listing.decide({ kind: 'inbox' }, listing.targets()),
    junk: () => {
      const junked = list.name === 'junk'
      listing.decide({ kind: junked ? 'inbox' : 'junk' }, listing.targets())
      toast(junked ? 'Not junk: back in the inbox' : 'Moved to Junk', {
        action: { label: 'Undo', onClick: () => void takeBack() },
      })
    },
  }
  const instead = { answer: press.answer, handOn: press.handOn, followUp: press.followUp, done: press.done }
  // As long again, in one key; from the third time on it asks, as Later does.
  const same = (row: Row) => {
    if (!row.same) return toast('It was not put off before: press Later.')
    if (row.often) return setAsking({ what: 'later', on: [targetOf(row)], row, again: row.same })
    listing.decide({ kind: 'later', when: row.same.phrase }, [targetOf(row)])
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
  // A list of all places, as a search is, goes by where the focused one is.
  const inPlace = focus?.place ?? list.name
  const away = inPlace !== 'inbox'
  useKeys({
    ...press,
    done: away ? press.fetch : press.done,
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
    quiet: () => listing.quiet(listing.targets()),
    same: () => focus && same(focus),
    label: () => ask('label'),
    next: (e) => listing.move(1, e.shiftKey),
    previous: (e) => listing.move(-1, e.shiftKey),
    open: () => {
      const paper = document.querySelector('[data-letters]')
      if (!listing.reading && matchMedia('(max-width: 767px)').matches) return listing.setReading(true)
      if (paper && paper.scrollTop + paper.clientHeight < paper.scrollHeight - 4)
        paper.scrollBy({ top: paper.clientHeight * 0.85 })
      else listing.move(1)
    },
    select: () => focus && listing.toggle(focus),
  })
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      const field = e.target instanceof Element && e.target.closest('input, textarea, select, [role=dialog]')
      if (field || e.defaultPrevented) return
      if (e.key === 'Escape') {
        if (listing.selected.size > 0) listing.clear()
        else listing.setReading(false)
      }
      if (e.key === 'Home' || e.key === 'End') {
        e.preventDefault()
        listing.move(e.key === 'Home' ? -Infinity : Infinity)
      }
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'a') {
        e.preventDefault()
        void listing.selectAll()
      }
    }
    addEventListener('keydown', keys)
    return () => removeEventListener('keydown', keys)
  }, [listing])

  const many = n > 1 ? `${n} letters` : undefined
  const off = none ? 'no letter' : undefined
  const oneOnly = n > 1 ? 'one at a time' : off
  const deck: DeckKey[] = [
    {
      action: 'answer',
      name: 'Answer',
      hint: focus ? `to ${focus.from.name || focus.from.email}` : '',
      press: press.answer,
      off: oneOnly,
    },
    away
      ? {
          action: 'done',
          name: inPlace === 'junk' ? 'Not junk' : inPlace === 'bin' ? 'Restore' : 'To inbox',
          hint: many ?? 'back to the inbox',
          press: press.fetch,
          off,
        }
      : { action: 'done', name: 'Done', hint: many ?? 'to the archive', press: press.done, off },
    {
      action: 'later',
      name: 'Later',
      hint: many ?? (focus && focus.putOffs ? `put off ${focus.putOffs}×` : 'pick a time'),
      press: press.later,
      off,
    },
    { action: 'followUp', name: 'Follow up', hint: many ?? open?.action ?? '', press: press.followUp, off },
    { action: 'handOn', name: 'Hand on', hint: 'and wait for them', press: press.handOn, off: oneOnly },
    { action: 'file', name: 'File', hint: many ?? 'under a label', press: press.file, off },
    {
      action: 'bin',
      name: 'Bin',
      hint: many ?? 'kept for 30 days',
      press: press.bin,
      off: inPlace === 'bin' ? 'in the bin' : off,
    },
  ]
  const showSheet = listing.reading || (writing !== undefined && writing.conversation === undefined)
  return (
    <>
      <main className="flex min-h-0 flex-1 gap-3 px-4 max-md:gap-0 max-md:px-2" aria-label="Letters">
        {staff && overview && <Staff overview={overview} />}
        <div
          className={`flex min-h-0 w-[clamp(320px,39vw,500px)] shrink-0 flex-col max-md:w-full ${showSheet ? 'max-md:hidden' : ''}`}
        >
          {n > 0 ? <Selection listing={listing} /> : head?.(listing)}
          <Queue
            listing={listing}
            grouped={list.name === 'inbox'}
            empty={empty}
            swipe={(row, to) => {
              const on = [targetOf(row)]
              if (to === 'right') listing.decide({ kind: away ? 'inbox' : 'done' }, on)
              else ask('later', on)
            }}
          />
        </div>
        <div className={`flex min-h-0 min-w-0 flex-1 flex-col ${showSheet ? '' : 'max-md:hidden'}`}>
          <Sheet
            id={focus?.id}
            onBack={() => listing.setReading(false)}
            onStar={() => focus && listing.star([targetOf(focus)])}
            onFlag={() => focus && void carryOut({ path: 'flag', body: { on: [targetOf(focus)] } })}
            onLabel={() => focus && ask('label', [targetOf(focus)])}
            onAgain={(c) => setAsking({ what: 'later', on: [targetOf(c)], row: c, again: c.again })}
            onSame={(c) => same(c)}
            onQuiet={() => focus && listing.quiet([targetOf(focus)])}
          />
        </div>
      </main>
      <Deck keys={deck} onUndo={() => void takeBack()} shown={listing.reading || n > 0} />
      <Suspense fallback={<Opening />}>
        {asking && (
          <Ask
            asking={asking}
            hint={asking.on.length > 1 ? hint : (asking.row?.title ?? hint)}
            onClose={() => setAsking(undefined)}
            onDecide={(body) => {
              setAsking(undefined)
              if (writing?.conversation && asking.on.some((t) => t.id === writing.conversation)) forget(writing.draft)
              listing.decide(body, asking.on)
            }}
            onStay={(body) => {
              setAsking(undefined)
              void carryOut({ path: 'decide', body: { ...body, on: asking.on } })
            }}
            onInstead={(what) => {
              setAsking(undefined)
              instead[what]()
            }}
            onLabel={(labels) => {
              setAsking(undefined)
              for (const value of labels)
                void carryOut({ path: 'mark', body: { on: asking.on.map((t) => t.id), mark: 'label', value } })
            }}
          />
        )}
      </Suspense>
    </>
  )
}

function Ask({
  asking,
  hint,
  onClose,
  onDecide,
  onStay,
  onLabel,
  onInstead,
}: {
  asking: Asking
  hint: string
  onClose: () => void
  onDecide: (body: Parameters<Listing['decide']>[0]) => void
  onStay: (body: Parameters<Listing['decide']>[0]) => void
  onLabel: (labels: string[]) => void
  onInstead: (what: Instead) => void
}) {
  switch (asking.what) {
    case 'later':
      return (
        <LaterDialog
          hint={hint}
          putOffs={asking.on.length === 1 ? asking.row?.putOffs : undefined}
          often={asking.on.length === 1 && asking.row?.often}
          first={[asking.again, asking.row?.again, asking.row?.same].filter((p) => p !== undefined)}
          about={{ for: asking.on[0]?.id, count: asking.on.length }}
          spread={asking.on.map((t) => t.id)}
          sender={asking.on.length > 1 ? 'the senders' : asking.row && (asking.row.from.name || asking.row.from.email)}
          onClose={onClose}
          onTake={(p, tell) =>
            // Of a single letter the dialog has asked whether it is to be put off once more.
            onDecide({
              kind: 'later',
              when: p.phrase,
              ...(tell ? { tell } : {}),
              ...(asking.on.length === 1 ? { sure: true } : {}),
            })
          }
          onSpread={(each) => onDecide({ kind: 'later', each })}
          onInstead={onInstead}
        />
      )
    case 'follow-up': {
      const one =
        asking.on.length === 1 ? client.getQueryData<Conversation>(['conversation', asking.on[0]?.id]) : undefined
      return (
        <FollowUpDialog
          hint={hint}
          title={asking.on.length > 1 ? `See to ${asking.on.length} letters` : (one?.action ?? asking.row?.title ?? '')}
          due={one?.due ?? 'tomorrow'}
          withLetter
          onClose={onClose}
          conversation={asking.on.length === 1 ? asking.on[0]?.id : undefined}
          onTake={([followUp, ...more], then) => {
            if (!followUp) return
            // Several of what a letter asks: the decision makes the first one.
            for (const one of more) void carryOut({ path: 'new-follow-up', body: { ...one, on: asking.on } })
            const body = { kind: 'follow-up' as const, followUp }
            if (then === 'stay') onStay({ ...body, stay: true })
            else onDecide(then === 'later' && followUp.due ? { ...body, when: followUp.due } : body)
          }}
        />
      )
    }
    case 'flag':
      return (
        <PhraseDialog
          title="Flag"
          hint={hint}
          icon={<Flag className="size-5 text-lamp" aria-hidden />}
          label="Due, or from start to due, and reminders"
          placeholder="tomorrow to fri, remind thu 10"
          about={{ plain: true, as: 'times' }}
          onClose={onClose}
          onTake={(p) => {
            onClose()
            void carryOut({ path: 'flag', body: { on: asking.on, when: p.phrase } }).then((o) => o && toast(o.title))
          }}
        />
      )
    default:
      return (
        <LabelDialog
          file={asking.what === 'file'}
          hint={hint}
          onClose={onClose}
          onTake={(labels) => (asking.what === 'file' ? onDecide({ kind: 'file', labels }) : onLabel(labels))}
        />
      )
  }
}

function Selection({ listing }: { listing: Listing }) {
  return (
    <div className="flex h-12 shrink-0 items-center gap-2 px-2" role="status">
      <span className="font-semibold">{listing.selected.size} selected</span>
      <button className="btn btn-small" onClick={() => void listing.selectAll()}>
        All <span className="key">Ctrl A</span>
      </button>
      <button className="btn btn-small" onClick={listing.clear}>
        None <span className="key">Esc</span>
      </button>
      <span className="flex-1" />
      <SaveAs conversations={[...listing.selected.keys()]} />
    </div>
  )
}
