import { part } from '../kit/part'
import { ChevronDown, Download, FileText, NotepadText, Scissors } from 'lucide-react'
import { Link } from '@tanstack/react-router'
import { Fragment, useContext, useState, type ReactNode } from 'react'
import { useQuery } from '@tanstack/react-query'
import { api, take, type Ask, type Conversation, type InsideLetter, type Letter } from '../api/client'
import { carryOut, told } from '../state/commands'
import { clock, fullStamp, size, stamp } from '../state/time'
import { AskMarks } from './Asks'
import { Bill } from './Bill'
import { Findings, FoundMarks, marking } from './Found'
import { Seeking, useQuotes } from '../state/seeking'
import { HitSteps } from './HitSteps'
import { LetterFrame } from './LetterFrame'
import { LetterNotes } from './LetterNotes'

const Invitation = part(() => import('../days/Invitation').then((m) => m.Invitation))

const initials = (name: string) =>
  name
    .split(/[\s@.]+/)
    .slice(0, 2)
    .map((w) => w[0]?.toUpperCase() ?? '')
    .join('')

const hues = ['bg-kelp', 'bg-tide', 'bg-heather', 'bg-lamp', 'bg-buoy']
export function Face({ name }: { name: string }) {
  const hue = hues[[...name].reduce((sum, c) => sum + (c.codePointAt(0) ?? 0), 0) % hues.length]
  return (
    <span
      aria-hidden
      className={`grid size-9 shrink-0 place-items-center rounded-full text-[13px] font-bold text-paper ${hue}`}
    >
      {initials(name) || '?'}
    </span>
  )
}

const names = (list: Letter['to']) => list.map((a) => a.name || a.email).join(', ')

/** Receivers, each of whom can be looked up. */
const Names = ({ list }: { list: Letter['to'] }) =>
  list.map((a, i) => (
    <Fragment key={i}>
      {i > 0 && ', '}
      {a.email ? (
        <Link to="/people" search={{ of: a.email }} className="hover:underline">
          {a.name || a.email}
        </Link>
      ) : (
        a.name
      )}
    </Fragment>
  ))

/** One letter, folded to a line or open on its paper. */
export function LetterPaper({
  conversation,
  letter,
  open,
  onToggle,
  images,
  onImages,
  reading,
}: {
  conversation: Conversation
  letter: Letter
  open: boolean
  onToggle?: () => void
  images: boolean
  onImages: () => void
  /** It is only read, and nothing is done with it. */
  reading?: boolean
}) {
  const { data } = useQuery({
    queryKey: ['letter', letter.id],
    queryFn: () => take(api.GET('/api/letters/{id}', { params: { path: { id: letter.id } } })),
    enabled: open && !letter.body,
  })
  const [pointed, setMarked] = useState<readonly string[]>([])
  const quotes = useQuotes(useContext(Seeking), letter.id, open)
  const marked = pointed.length > 0 ? pointed : quotes
  const who = letter.own ? 'You' : letter.from.name || letter.from.email || 'No sender named'
  if (!open)
    return (
      <button
        onClick={onToggle}
        aria-expanded={false}
        className="flex w-full items-baseline gap-3 border-b border-line py-2 text-left hover:bg-tide-3"
      >
        <span className="shrink-0 font-semibold">{who}</span>
        <span className="min-w-0 flex-1 truncate text-ink-3">
          {letter.folded ? `${letter.folded}; its letters are folded` : letter.snippet || letter.subject}
        </span>
        <time className="shrink-0 text-[13px] text-ink-3" dateTime={letter.date}>
          {stamp(letter.date)}
        </time>
      </button>
    )
  const body = letter.body ?? data?.body
  const shown = images || (body?.pictures ?? false)
  const parts = letter.parts
  return (
    <article aria-label={`Letter from ${who}`} className="pt-3 pb-4">
      <header className="flex items-start gap-3 max-md:flex-wrap max-md:gap-y-2">
        <Face name={letter.from.name || letter.from.email} />
        <div className="min-w-0 flex-1 max-md:min-w-[70%]">
          <div className="flex flex-wrap items-baseline gap-x-2">
            {letter.own || !letter.from.email ? (
              <span className="text-[15px] font-bold">{who}</span>
            ) : (
              <Link
                to="/people"
                search={{ of: letter.from.email }}
                className="inline-block min-h-6 text-[15px] leading-6 font-bold hover:underline"
              >
                {who}
              </Link>
            )}
            <span className="truncate text-[14px] text-ink-3">{letter.own ? '' : letter.from.email}</span>
          </div>
          <div className="text-[13px] text-ink-3">
            {letter.to.length > 0 && (
              <>
                to <Names list={letter.to} />
              </>
            )}
            {letter.cc.length > 0 && (
              <>
                , copy to <Names list={letter.cc} />
              </>
            )}
            {' · '}
            <time dateTime={letter.date} title={fullStamp(letter.date)}>
              {stamp(letter.date)}
            </time>
            {new Date(letter.inAt).getTime() - new Date(letter.date).getTime() > 120_000 &&
              !letter.own &&
              ` · let in ${clock(letter.inAt)}`}
            {letter.automatic && ` · sent by a machine`}
          </div>
        </div>
        {!reading && (
          <>
            <a
              className="btn btn-small btn-tight text-[12px]"
              href={`/api/letters/${letter.id}/original`}
              download
              title="Save the letter as it came"
            >
              <Download className="size-3.5" aria-hidden /> .eml
            </a>
            {letter.own && (
              <Link
                to="/templates"
                search={{ of: letter.id }}
                className="btn btn-small btn-tight text-[12px]"
                title="Make a template of this letter"
                aria-label="Make a template of this letter"
              >
                <NotepadText className="size-3.5" aria-hidden /> Template
              </Link>
            )}
            {conversation.letterList[0]?.id !== letter.id && (
              <button
                className="btn btn-small btn-tight text-[12px]"
                title="Start a new conversation from here: this letter and those after it"
                aria-label="Split here: start a new conversation from this letter"
                onClick={() => void carryOut({ path: 'split', id: letter.id, body: {} }).then(told)}
              >
                <Scissors className="size-3.5" aria-hidden /> Split here
              </button>
            )}
          </>
        )}
        {onToggle && (
          <button className="btn btn-small !px-1.5" onClick={onToggle} aria-expanded aria-label="Fold this letter">
            <ChevronDown className="size-4 rotate-180" aria-hidden />
          </button>
        )}
      </header>
      {body?.invitation && <Invitation letter={{ ...letter, body }} />}
      {body?.bill && !letter.own && (
        <div
          tabIndex={0}
          role="group"
          aria-label="The bill"
          className="rounded-lg"
          {...marking(body.bill.quotes ?? [], setMarked)}
        >
          <Bill bill={body.bill} />
        </div>
      )}
      {body?.found && <Findings found={body.found} onMark={setMarked} />}
      <LetterNotes letter={letter} body={body} conversation={conversation} images={shown} onImages={onImages} />
      {quotes.length > 0 && <HitSteps words={quotes} />}
      <div className="mt-3">
        {!body ? (
          <div aria-busy className="h-24 animate-pulse rounded-lg bg-shore-2" />
        ) : letter.html ? (
          <LetterFrame id={letter.id} images={shown} marks={quotes} title={`Text of the letter from ${who}`} />
        ) : (
          <FoundMarks value={marked}>
            <PlainText folds={body.text} />
          </FoundMarks>
        )}
      </div>
      {body?.inside.map((l) => (
        <Inside key={l.part} letter={l} />
      ))}
      {parts.length > 0 && (
        <ul aria-label="Attachments" className="mt-4 flex flex-wrap gap-2">
          {parts.map((p) => (
            <li
              key={p.index}
              className="flex max-w-full items-center gap-2 rounded-lg border border-line bg-shore/50 py-1 pr-1 pl-2.5 text-[13px]"
            >
              <FileText className="size-4 shrink-0 text-ink-3" aria-hidden />
              <a
                className="truncate font-medium hover:underline"
                href={`/api/letters/${letter.id}/parts/${p.index}`}
                target="_blank"
                rel="noreferrer"
              >
                {p.name}
              </a>
              <span className="shrink-0 text-ink-3">{size(p.size)}</span>
              {p.unread && (
                <span className="truncate text-lamp" title={`Its text is not found by a search: ${p.unread}`}>
                  not searched: {p.unread}
                </span>
              )}
              <a
                className="btn !min-h-6 !px-1.5"
                href={`/api/letters/${letter.id}/parts/${p.index}?save=1`}
                aria-label={`Save ${p.name}`}
              >
                <Download className="size-3.5" aria-hidden />
              </a>
            </li>
          ))}
        </ul>
      )}
    </article>
  )
}

/** A letter within a letter, shown in its place. */
function Inside({ letter: l }: { letter: InsideLetter }) {
  return (
    <section aria-label={`Attached letter: ${l.subject}`} className="mt-4 rounded-lg border border-line p-3">
      <p className="text-[13px] text-ink-3">
        <span className="font-semibold text-ink">{l.from.name || l.from.email || 'No sender named'}</span>
        {l.to.length > 0 && ` to ${names(l.to)}`}
        {l.date && ` · ${fullStamp(l.date)}`}
      </p>
      <p className="pb-2 font-semibold">{l.subject || '(no subject)'}</p>
      <PlainText folds={l.text} />
      {l.parts.length > 0 && <p className="pt-2 text-[13px] text-ink-3">with {l.parts.join(', ')}</p>}
      {l.inside.map((inner) => (
        <Inside key={inner.part} letter={inner} />
      ))}
    </section>
  )
}

/** Plain text on paper; what is quoted is folded. */
function PlainText({ folds }: { folds: { text: string; quoted: boolean }[] }) {
  const onlyQuoted = folds.every((f) => f.quoted || f.text.trim() === '')
  return (
    <div className="serif max-w-[68ch] break-words whitespace-pre-wrap">
      {folds.map((f, i) =>
        f.quoted ? (
          <Quoted key={i} text={f.text} open={onlyQuoted} />
        ) : (
          <Marked key={i} text={f.text.replace(/^\n+|\n+$/g, '') + '\n'} />
        ),
      )}
      {folds.every((f) => f.text.trim() === '') && <span className="text-ink-3">This letter has no text.</span>}
    </div>
  )
}

function Quoted({ text, open: initially }: { text: string; open: boolean }) {
  const [open, setOpen] = useState(initially)
  const lines = text.trim().split('\n').length
  return (
    <div className="my-2 font-sans text-[13px]">
      <button className="btn !min-h-6 btn-tight text-[12px]" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? 'Fold the quotation' : `Quotation, ${lines} ${lines === 1 ? 'line' : 'lines'}`}
      </button>
      {open && <div className="serif mt-2 border-l-2 border-line pl-3 !text-[15px] text-ink-2">{text.trim()}</div>}
    </div>
  )
}

const link = /\bhttps?:\/\/[^\s<>"')\]]+/g

function Linked({ text }: { text: string }) {
  return (
    <>
      {split(text, link, (url, at) => (
        <a key={at} href={url} target="_blank" rel="noreferrer noopener" className="text-tide underline">
          {url}
        </a>
      ))}
    </>
  )
}

/** A text with what fits a pattern shown otherwise. */
function split(text: string, pattern: RegExp, show: (found: string, at: number) => ReactNode): ReactNode[] {
  const out: ReactNode[] = []
  let at = 0
  for (const m of text.matchAll(pattern)) {
    out.push(text.slice(at, m.index), show(m[0], m.index))
    at = m.index + m[0].length
  }
  out.push(text.slice(at))
  return out
}

/** Sentences as they may stand in a text, broken anywhere. */
const sentences = (asks: Ask[]) =>
  new RegExp(
    asks
      .map((a) =>
        a.text
          .replace(/…$/, '')
          .split(' ')
          .map((w) => w.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
          .join('\\s+'),
      )
      .join('|'),
    'g',
  )

const quoted = (texts: readonly string[]) =>
  new RegExp(texts.map((t) => t.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')).join('|'), 'g')

/** Text in which what the letter asks has the colour of its answer, and what is pointed at is marked. */
function Marked({ text }: { text: string }) {
  const asks = useContext(AskMarks)
  const found = useContext(FoundMarks).filter((q) => q !== '')
  if (found.length > 0)
    return (
      <>
        {split(text, quoted(found), (quote, at) => (
          <mark key={at} data-hit className="rounded-sm bg-tide-2 text-inherit outline-2 outline-tide">
            {quote}
          </mark>
        ))}
      </>
    )
  if (asks.length === 0) return <Linked text={text} />
  const covered = (found: string) =>
    asks.find((a) => found.replace(/\s+/g, ' ').startsWith(a.text.replace(/…$/, '')))?.covered
  return (
    <>
      {split(text, sentences(asks), (found, at) => (
        <mark key={at} className={`rounded-sm text-inherit ${covered(found) ? 'bg-kelp-2' : 'bg-lamp-2'}`}>
          {found}
        </mark>
      )).map((part, i) => (typeof part === 'string' ? <Linked key={`t${i}`} text={part} /> : part))}
    </>
  )
}
