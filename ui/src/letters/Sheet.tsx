import { LabelName } from '../kit/LabelChip'
import { part } from '../kit/part'
import { ArrowLeft, BellOff, Check, Flag, NotebookPen, Star, Tag, KeyRound } from 'lucide-react'
import { memo, useEffect, useState, type ReactNode } from 'react'
import { useNavigate } from '@tanstack/react-router'
import { api, take, type Conversation } from '../api/client'
import { editRows, useConversation } from '../api/queries'
import { carryOut } from '../state/commands'
import { composing, resume } from '../state/writing'
import { labelled } from '../state/finding'
import { letThrough } from '../state/gate'
import { useKeyOf, useKeys, keyName } from '../state/keys'
import { lastInSight } from '../state/routines'
import { useForetold } from '../state/foretold'
import { dayAndClock, stamp } from '../state/time'
import { LetterPaper } from './LetterPaper'
import { Likely } from './Likely'

const OwnDialog = part(() => import('./OwnNotes').then((m) => m.OwnDialog))
const OwnNotes = part(() => import('./OwnNotes').then((m) => m.OwnNotes))
const Composer = part(() => import('./Composer').then((m) => m.Composer))

/** A conversation on its sheet: title, marks, what hangs on it, its letters. */
export const Sheet = memo(function Sheet({
  id,
  onBack,
  onStar,
  onFlag,
  onLabel,
  onAgain,
  onSame,
  onQuiet,
}: {
  id: number | undefined
  onBack?: () => void
  onStar: () => void
  onFlag: () => void
  onLabel: () => void
  onAgain?: (c: Conversation) => void
  onSame?: (c: Conversation) => void
  onQuiet?: () => void
}) {
  const { data: c, isPending, isError, error, refetch } = useConversation(id)
  const writing = composing.use()
  /** The conversation of which the own note is asked for: also before it has been read. */
  const [noting, setNoting] = useState<number>()
  useKeys({ note: () => setNoting(id) })
  useSeen(c)
  const inSight = c?.id
  const called = c?.title ?? ''
  useEffect(() => {
    if (inSight) lastInSight.set({ id: inSight, title: called })
  }, [inSight, called])
  if (writing && (writing.conversation === id || writing.conversation === undefined))
    return <Composer key={writing.draft} open={writing} conversation={writing.conversation ? c : undefined} />
  if (id === undefined) return null
  if (isError)
    return (
      <Paper>
        <div className="p-8" role="alert">
          <p className="font-semibold">This letter could not be opened.</p>
          <p className="py-1 text-ink-2">{error.message}</p>
          <button className="btn mt-2" onClick={() => void refetch()}>
            Try again
          </button>
        </div>
      </Paper>
    )
  if (isPending || !c)
    return (
      <Paper>
        <div role="status" aria-busy aria-label="Opening the letter" className="space-y-3 p-6">
          <div className="h-8 w-2/3 animate-pulse rounded bg-shore-2" />
          <div className="h-40 animate-pulse rounded bg-shore-2" />
        </div>
      </Paper>
    )
  return (
    <Paper>
      <Open
        key={c.id}
        c={c}
        onBack={onBack}
        onStar={onStar}
        onFlag={onFlag}
        onLabel={onLabel}
        onAgain={onAgain}
        onSame={onSame}
        onQuiet={onQuiet}
        onNote={() => setNoting(id)}
      />
      {noting === c.id && <OwnDialog c={c} onClose={() => setNoting(undefined)} />}
    </Paper>
  )
})

function Paper({ children }: { children: ReactNode }) {
  return (
    <section
      aria-label="Letter"
      className="flex min-h-0 min-w-0 flex-1 flex-col overflow-hidden rounded-[14px] border border-line bg-paper"
    >
      {children}
    </section>
  )
}

/** Remembers that a letter was looked at, once it has been for a moment. */
function useSeen(c: Conversation | undefined) {
  const id = c?.id
  const last = c?.last
  const unread = c?.unread
  useEffect(() => {
    if (!id || !last || !unread) return
    const timer = setTimeout(() => {
      void take(api.POST('/api/conversations/{id}/seen', { params: { path: { id } }, body: { last } })).catch(
        () => undefined,
      )
      editRows((r) => (r.id === id ? { ...r, unread: false } : r))
    }, 700)
    return () => clearTimeout(timer)
  }, [id, last, unread])
}

function Open({
  c,
  onBack,
  onStar,
  onFlag,
  onLabel,
  onAgain,
  onSame,
  onQuiet,
  onNote,
}: {
  c: Conversation
  onBack?: () => void
  onStar: () => void
  onFlag: () => void
  onLabel: () => void
  onAgain?: (c: Conversation) => void
  onSame?: (c: Conversation) => void
  onQuiet?: () => void
  onNote: () => void
}) {
  const keyOf = useKeyOf()
  const [opened, setOpened] = useState<ReadonlySet<number>>(new Set())
  const [images, setImages] = useState(false)
  const letters = c.letterList
  const newest = (letters.findLast((l) => !l.folded) ?? letters.at(-1))?.id
  const early = letters.filter((l) => l.id !== newest)
  const toggle = (id: number) =>
    setOpened((was) => (was.has(id) ? new Set([...was].filter((o) => o !== id)) : new Set([...was, id])))
  const unfoldAll = () => setOpened((was) => (was.size > 0 ? new Set() : new Set(early.map((l) => l.id))))
  useKeys({ images: () => setImages(true), unfold: unfoldAll })
  const flagged = c.followUps.some((f) => f.flag)
  const [all, setAll] = useState(early.length <= 4)
  const shownEarly = all ? early : early.slice(-2)
  return (
    <>
      <header className="border-b border-line px-6 pt-4 pb-3 max-md:px-4">
        {/* On a phone the title has the whole width, below what can be done. */}
        <div className="flex items-start gap-2 max-md:flex-wrap max-md:items-center">
          {onBack && (
            <button className="btn btn-tight md:hidden" onClick={onBack} aria-label="Back to the list">
              <ArrowLeft className="size-4" aria-hidden />
            </button>
          )}
          <span className="flex-1 md:hidden" />
          <h1 className="serif min-w-0 flex-1 max-md:order-last max-md:basis-full !text-[25px] !leading-tight font-medium break-words max-md:!text-[21px]">
            {c.title}
            {c.own.title && (
              <span className="block font-sans text-[13px] text-ink-3">They call it “{c.own.subject}”</span>
            )}
          </h1>
          <MarkButton label={c.star ? 'Take the star off' : 'Star'} hint={keyOf('star')} onClick={onStar} on={c.star}>
            <Star className={`size-[18px] ${c.star ? 'fill-tide text-tide' : ''}`} aria-hidden />
          </MarkButton>
          <MarkButton
            label={flagged ? 'Flag done' : 'Flag: follow up today'}
            hint={keyOf('flag')}
            onClick={onFlag}
            on={flagged}
          >
            <Flag className={`size-[18px] ${flagged ? 'fill-lamp text-lamp' : ''}`} aria-hidden />
          </MarkButton>
          <MarkButton
            label={`Let ${c.from.name || c.from.email} through at any time`}
            hint={keyOf('letThrough')}
            onClick={() => letThrough(c.from.email)}
            on={false}
          >
            <KeyRound className="size-[18px]" aria-hidden />
          </MarkButton>
          {onQuiet && (
            <MarkButton
              label={c.quiet ? 'No longer quiet' : 'Quiet this conversation: keep it in the archive'}
              hint={keyOf('quiet')}
              onClick={onQuiet}
              on={c.quiet ?? false}
            >
              <BellOff className={`size-[18px] ${c.quiet ? 'text-tide' : ''}`} aria-hidden />
            </MarkButton>
          )}
          <MarkButton label="Your note, title and files" hint={keyOf('note')} onClick={onNote} on={Boolean(c.own.note)}>
            <NotebookPen className={`size-[18px] ${c.own.note ? 'text-heather' : ''}`} aria-hidden />
          </MarkButton>
          <MarkButton label="Label" hint={keyOf('label')} onClick={onLabel} on={false}>
            <Tag className="size-[18px]" aria-hidden />
          </MarkButton>
        </div>
        <Hanging c={c} onAgain={onAgain} onSame={onSame} />
      </header>
      <div
        className="min-h-0 flex-1 overflow-y-auto px-6 pb-6 max-md:px-4"
        tabIndex={0}
        role="region"
        aria-label="Letters of this conversation"
        data-letters
      >
        {c.asks && (
          <p className="-mx-6 bg-tide-3 px-6 py-2 text-[14px] max-md:-mx-4 max-md:px-4">
            <span className="mr-3 font-semibold text-tide">Asks for</span>
            {c.ask}
          </p>
        )}
        {(c.own.note || c.own.files.length > 0) && <OwnNotes c={c} onEdit={onNote} />}
        {early.length > shownEarly.length && (
          <button className="btn mt-3 w-full" onClick={() => setAll(true)}>
            {early.length - shownEarly.length} earlier letters
          </button>
        )}
        {shownEarly.map((l) => (
          <LetterPaper
            key={l.id}
            conversation={c}
            letter={l}
            open={opened.has(l.id)}
            onToggle={() => toggle(l.id)}
            images={images}
            onImages={() => setImages(true)}
          />
        ))}
        {letters
          .filter((l) => l.id === newest)
          .map((l) => (
            <LetterPaper key={l.id} conversation={c} letter={l} open images={images} onImages={() => setImages(true)} />
          ))}
        {c.outbox.map((o) => (
          <div
            key={o.id}
            className={`mt-2 rounded-lg px-3 py-2 text-[13px] ${o.state === 'failed' ? 'bg-buoy-2 text-buoy' : 'bg-tide-3 text-tide'}`}
          >
            {o.state === 'failed'
              ? `Not delivered to ${o.to.join(', ')}: ${o.trouble}.`
              : o.trouble
                ? `Waiting to be sent to ${o.to.join(', ')}; the next try is at ${stamp(o.leavesAt)}. ${o.trouble}.`
                : o.later
                  ? `Leaves ${dayAndClock(o.leavesAt)} to ${o.to.join(', ')}. Ahead changes that.`
                  : `On its way to ${o.to.join(', ')}. Undo takes it back.`}
          </div>
        ))}
      </div>
    </>
  )
}

function MarkButton(props: { label: string; hint: string; on: boolean; onClick: () => void; children: ReactNode }) {
  return (
    <button
      aria-label={props.label}
      aria-pressed={props.on}
      title={`${props.label}${props.hint ? ` (${keyName(props.hint)})` : ''}`}
      onClick={props.onClick}
      className="grid size-8 shrink-0 place-items-center rounded-lg hover:bg-tide-3"
    >
      {props.children}
    </button>
  )
}

/** What hangs on a conversation: why it is here, labels, follow-ups, waiting,
 * drafts. */
function Hanging({
  c,
  onAgain,
  onSame,
}: {
  c: Conversation
  onAgain?: (c: Conversation) => void
  onSame?: (c: Conversation) => void
}) {
  const go = useNavigate()
  const keyOf = useKeyOf()
  const foretold = useForetold(c).shown
  const followUps = [...c.followUpList].sort((a, b) => Number(a.closed) - Number(b.closed))
  return (
    <div className="mt-2 flex flex-wrap items-center gap-1.5 empty:hidden">
      {c.back && (
        <span className={`chip first-letter:uppercase ${c.failed ? '!bg-buoy-2 !text-buoy' : '!bg-tide-2 !text-tide'}`}>
          {c.back}
        </span>
      )}
      {c.quiet && (
        <span
          className="chip !bg-shore-2"
          title="Letters that come join it in the archive, unless one is to you alone or something could not be delivered"
        >
          Quiet
        </span>
      )}
      {c.through && <span className="chip !bg-tide-2 !text-tide">Let through: {c.through}</span>}
      {c.high && <span className="chip !bg-tide-2 !text-tide">Ranked high: {c.high}</span>}
      {foretold && <Likely foretold={foretold} />}
      {c.again && onAgain && (
        <button className="chip !bg-lamp-2 !text-lamp hover:underline" onClick={() => onAgain(c)}>
          Again until {c.again.words}
        </button>
      )}
      {c.same && c.place === 'inbox' && onSame && (
        <button className="chip !bg-lamp-2 !text-lamp hover:underline" onClick={() => onSame(c)}>
          As long again: {c.same.words} {keyOf('same') && <span className="key">{keyName(keyOf('same'))}</span>}
        </button>
      )}
      {c.return && c.place === 'later' && <span className="chip !bg-lamp-2 !text-lamp">Put off until {c.return}</span>}
      {c.place === 'bin' && <span className="chip !bg-buoy-2 !text-buoy">In the bin, {c.daysLeft} days left</span>}
      {c.place === 'junk' && <span className="chip !bg-buoy-2 !text-buoy">Junk</span>}
      {c.labels.map((l) => (
        <span key={l} className="chip">
          <button
            className="hover:underline"
            title={`All letters under “${l}”`}
            onClick={() => void go({ to: '/search', search: { q: labelled(l) } })}
          >
            <LabelName name={l} />
          </button>
          <button
            aria-label={`Take the label ${l} off`}
            className="-my-1 -mr-1.5 grid size-6 place-items-center hover:text-buoy"
            onClick={() => void carryOut({ path: 'mark', body: { on: [c.id], mark: 'label', value: l, off: true } })}
          >
            ×
          </button>
        </span>
      ))}
      {followUps.map((f) => (
        <button
          key={f.id}
          className={`chip hover:underline ${f.closed ? '' : f.late ? '!bg-buoy-2 !text-buoy' : '!bg-kelp-2 !text-kelp'}`}
          onClick={() => void go({ to: '/follow-ups', search: { open: f.id } })}
        >
          {f.status === 'done' && <Check className="size-3.5" aria-hidden />}
          {f.status === 'done' ? 'Done' : f.status === 'dropped' ? 'Dropped' : f.flag ? 'Flag' : 'Follow-up'}: {f.title}
          {!f.closed && f.due && ` · ${f.due}`}
        </button>
      ))}
      {c.waitingList.map((w) => (
        <span key={w.id} className="chip !bg-heather-2 !text-heather">
          Waiting for {w.persons.join(', ')}
          {w.until && ` until ${w.until}`}
        </span>
      ))}
      {c.drafts.map((d) => (
        <button key={d.id} className="chip !bg-lamp-2 !text-lamp hover:underline" onClick={() => resume(d, c)}>
          Draft of {stamp(d.updatedAt)}: go on writing
        </button>
      ))}
    </div>
  )
}
