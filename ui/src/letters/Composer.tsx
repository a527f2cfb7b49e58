import { useEffect, useRef, useState, type ClipboardEvent, type DragEvent, type KeyboardEvent } from 'react'
import { useQuery } from '@tanstack/react-query'
import { api, take, type Conversation } from '../api/client'
import { useAsks, useOverview, useSuggestions } from '../api/queries'
import { attach } from '../state/attaching'
import { capturing } from '../state/capturing'
import { carryOut, tellDone } from '../state/commands'
import { filesOf } from '../state/files'
import { useLatest } from '../state/latest'
import { insert, setMarks, type Mark } from '../state/markdown'
import { nextToQuote, quoted } from '../state/quoting'
import { fill, forget, leave, save, sendsNow, type, type Open } from '../state/writing'
import { Dialog } from '../kit/Dialog'
import { PhraseBox } from '../days/PhraseBox'
import { Answered } from './Answered'
import { Asks } from './Asks'
import { Attached } from './Attached'
import { Doubts } from './Doubts'
import { FromRow } from './FromRow'
import { Suggested } from './Suggested'
import { ToFillIn } from './ToFillIn'
import { PutInDialog } from './PutInDialog'
import { MarkBar } from './MarkBar'
import { OtherDrafts } from './OtherDrafts'
import { Receivers } from './Receivers'
import { SendingDeck } from './SendingDeck'
import { SendingRow } from './SendingRow'
import { SeenAs } from './SeenAs'
import { usePuttingIn } from './usePuttingIn'
import { useSending } from './useSending'

const titles = { answer: 'Answer', 'hand-on': 'Hand on', new: 'New letter', again: 'Send again' } as const

/** Where a letter is written, beside the one that it is about. What is typed is safe within
 * a second. */
export function Composer({ open, conversation }: { open: Open; conversation?: Conversation }) {
  const { writing: w } = open
  const { data: overview } = useOverview()
  const { data: asks = [] } = useAsks(w)
  const { data: proposed = [] } = useSuggestions(w)
  const [asking, setAsking] = useState<'wait' | 'later' | 'others' | 'template'>()
  const [seen, setSeen] = useState(false)
  /** On a narrow page one is in sight at a time. */
  const [at, setAt] = useState<'letter' | 'answer'>('answer')
  /** The limit in words, as it was understood here. */
  const [until, setUntil] = useState<string>()
  const [leaves, setLeaves] = useState<string>()
  const text = useRef<HTMLTextAreaElement>(null)
  const room = useRef<HTMLDivElement>(null)
  const form = useRef<HTMLFormElement>(null)
  const quote = useQuery({
    queryKey: ['quote', w.letter, w.kind],
    queryFn: () =>
      take(
        api.GET('/api/letters/{id}/quote', {
          params: { path: { id: w.letter ?? 0 }, query: { kind: w.kind === 'hand-on' ? 'hand-on' : 'answer' } },
        }),
      ),
    enabled: Boolean(w.letter) && !w.quoted && w.kind !== 'again' && w.kind !== 'new',
  })
  useEffect(() => {
    if (quote.data && !w.quoted && w.kind !== 'again') fill({ quoted: quote.data })
  }, [quote.data, w.quoted, w.kind])
  // Where it is known whom it goes to, one begins with the text.
  const [known] = useState(w.kind === 'answer' || w.to.length > 0)
  useEffect(() => {
    if (known) {
      text.current?.focus()
      text.current?.setSelectionRange(0, 0)
    }
  }, [known])
  useEffect(() => {
    const keep = () => void save()
    addEventListener('pagehide', keep)
    return () => removeEventListener('pagehide', keep)
  }, [])

  const drop = () => {
    const draft = open.draft
    void save().then(() => {
      forget(draft)
      void carryOut({ path: 'drop-draft', id: draft, body: {} }).then((o) => o && tellDone('Draft thrown away'))
    })
  }

  const toText = () => {
    setSeen(false)
    setAt('answer')
    requestAnimationFrame(() => text.current?.focus())
  }
  const stay = () => {
    noDoubts()
    toText()
  }
  const quoteIn = (selected: string) => {
    const some = selected.trim() ? selected : nextToQuote(asks, w.quoted ?? quote.data ?? '', w.text)
    if (!some) return toText()
    toText()
    requestAnimationFrame(() => text.current && insert(text.current, `${quoted(some)}\n\n`, true))
  }
  /** Files go along; a picture that is pasted into Markdown stands in the text. */
  const bring = (files: File[], inText = false) => {
    const added = attach(files)
    if (!inText || !w.markdown || !text.current) return
    for (const f of added) if (f.type.startsWith('image/')) insert(text.current, `![${f.name}](cid:${f.id})\n`, true)
  }
  const mark = (m: Mark) => text.current && setMarks(text.current, m)
  const lookAt = () => {
    if (seen) return toText()
    void save().then(() => setSeen(true))
  }
  /** Goes to the first field that is to be filled in, else to the text. */
  const fillIn = () =>
    requestAnimationFrame(() =>
      (form.current?.querySelector<HTMLElement>('[data-to-fill-in]') ?? text.current)?.focus(),
    )
  const puttingIn = usePuttingIn(open, text, fillIn)
  const { send, reading, doubts, noDoubts, holding } = useSending(open, form, fillIn)
  const goes = sendsNow.use() === open.draft
  const sendIt = useLatest(send)
  useEffect(() => {
    if (!goes) return
    sendsNow.set(undefined)
    sendIt()
  }, [goes, sendIt])
  /** What was written so far, without the signature. */
  const ownText = w.text.split('\n-- \n')[0]?.trim() ?? ''
  const offered = ownText === '' && !seen ? proposed : []
  const choose = useRef<HTMLInputElement>(null)
  const track = () => capturing.set({ take: (line) => type({ track: line }) })
  const alt: Record<string, () => void> = {
    KeyW: () => setAsking('wait'),
    KeyL: () => setAsking('later'),
    KeyF: track,
    KeyV: lookAt,
    KeyA: () => choose.current?.click(),
    KeyM: () => type({ markdown: !w.markdown }),
    KeyQ: () => room.current?.querySelector<HTMLElement>('[data-quote]')?.click(),
    KeyO: () => setAsking('others'),
    KeyT: () => setAsking('template'),
    Digit1: () => puttingIn.suggestion(offered[0]),
    Digit2: () => puttingIn.suggestion(offered[1]),
    Digit3: () => puttingIn.suggestion(offered[2]),
  }
  const keys = useLatest((e: KeyboardEvent) => {
    if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
      e.preventDefault()
      send()
    } else if (e.altKey && !e.ctrlKey && !e.metaKey && alt[e.code]) {
      e.preventDefault()
      alt[e.code]?.()
    } else if (e.key === 'Escape' && !asking) {
      if (doubts.length > 0) stay()
      else if (seen) toText()
      else leave()
    }
  })
  /** No key gets into a letter that is on its way out. */
  const past = (e: KeyboardEvent) => {
    if (!reading.current || e.key === 'Escape') return
    e.preventDefault()
    e.stopPropagation()
  }
  const paste = (e: ClipboardEvent) => {
    const files = [...e.clipboardData.files]
    if (files.length === 0) return
    e.preventDefault()
    bring(files, true)
  }
  const dropped = (e: DragEvent) => {
    if (!e.dataTransfer.types.includes('Files')) return
    e.preventDefault()
    e.stopPropagation()
    if (e.type === 'drop') void filesOf(e.dataTransfer).then((files) => bring(files))
  }

  const time =
    asking === 'wait'
      ? {
          title: 'Wait for an answer until',
          label: 'Wait until',
          take: (wait: string, words: string | undefined) => (type({ wait }), setUntil(words)),
        }
      : asking === 'later' && {
          title: 'Send it',
          label: 'Send it',
          take: (later: string, words: string | undefined) => (type({ later }), setLeaves(words)),
        }
  const list = <Asks asks={asks} />
  const answers = conversation && w.kind === 'answer'
  return (
    <div
      ref={room}
      className="@container flex min-h-0 min-w-0 flex-1 flex-col"
      onKeyDownCapture={past}
      onKeyDown={keys}
      onPaste={paste}
      onDragOver={dropped}
      onDrop={dropped}
    >
      {conversation && (
        <div role="tablist" aria-label="In sight" className="flex gap-1 pb-1.5 @3xl:hidden">
          {(['letter', 'answer'] as const).map((side) => (
            <button
              key={side}
              type="button"
              role="tab"
              aria-selected={at === side}
              className={`btn flex-1 btn-small ${at === side ? 'btn-main' : ''}`}
              onClick={() => setAt(side)}
            >
              {side === 'letter' ? 'Their letter' : titles[w.kind]}
            </button>
          ))}
        </div>
      )}
      <div className="flex min-h-0 flex-1 gap-2.5">
        {conversation && (
          <div
            className={`min-h-0 min-w-0 flex-[5] flex-col overflow-hidden rounded-[14px] border border-line bg-paper @3xl:flex ${at === 'letter' ? 'flex' : 'hidden'}`}
          >
            <Answered conversation={conversation} letter={w.letter} asks={asks} onQuote={quoteIn} list={list} />
          </div>
        )}
        <form
          ref={form}
          id={`form-${open.draft}`}
          aria-label={titles[w.kind]}
          className={`min-h-0 min-w-0 flex-[7] flex-col overflow-hidden rounded-[14px] border-2 border-tide bg-paper @3xl:flex ${conversation && at === 'letter' ? 'hidden' : 'flex'}`}
          onSubmit={(e) => {
            e.preventDefault()
            send()
          }}
        >
          <div className="flex min-h-0 flex-1 flex-col overflow-y-auto px-6 pt-3 max-md:px-4">
            <div className="flex flex-wrap items-center gap-x-3 gap-y-1 pb-1">
              <h2 className="min-w-0 flex-1 truncate text-[17px] font-semibold">
                {titles[w.kind]}{' '}
                {conversation && <span className="font-normal text-ink-3 @3xl:hidden">{conversation.title}</span>}
              </h2>
              {answers && (
                <label className="flex items-center gap-2 text-[13px]">
                  <input
                    type="checkbox"
                    className="size-4 accent-[var(--tide)]"
                    checked={w.all ?? false}
                    onChange={(e) => {
                      const to = e.target.checked ? conversation.answerAll : conversation.answer
                      type({ all: e.target.checked, to: to.to, cc: to.cc })
                    }}
                  />
                  to all
                </label>
              )}
              <label className="flex items-center gap-2 text-[13px]" title="It goes as a page too (Alt M)">
                <input
                  type="checkbox"
                  className="size-4 accent-[var(--tide)]"
                  checked={w.markdown ?? false}
                  onChange={(e) => type({ markdown: e.target.checked })}
                />
                Markdown
              </label>
            </div>
            <Receivers w={w} />
            {overview?.confined && (
              <p role="note" className="mt-1 rounded-lg bg-lamp-2 px-3 py-1 text-[13px] text-lamp">
                No mail service is connected: letters reach only people of this Ebbe.
              </p>
            )}
            <FromRow w={w} />
            <div className="flex items-center gap-1 border-b border-line py-1 text-[14px]">
              <label htmlFor="subject" className="w-16 shrink-0 text-ink-3">
                Subject
              </label>
              <input
                id="subject"
                className="min-w-0 flex-1 bg-transparent py-1"
                value={w.subject}
                onChange={(e) => type({ subject: e.target.value })}
              />
            </div>
            {/* On a phone the asks stay above the text. */}
            <div className="-mx-6 max-md:-mx-4 @3xl:hidden">{list}</div>
            {w.markdown && !seen && <MarkBar onMark={mark} />}
            {seen ? (
              <SeenAs open={open} />
            ) : (
              <textarea
                ref={text}
                data-writing
                aria-label="Text"
                className="serif mt-2 min-h-24 flex-1 resize-none bg-transparent !outline-none"
                value={w.text}
                placeholder={w.kind === 'hand-on' ? 'A line for whoever gets it' : 'Write here'}
                onChange={(e) => type({ text: e.target.value })}
                onKeyDown={(e) => {
                  const m =
                    w.markdown && (e.ctrlKey || e.metaKey) && ({ b: 'strong', i: 'em', k: 'link' } as const)[e.key]
                  if (m) {
                    e.preventDefault()
                    mark(m)
                  }
                }}
              />
            )}
            <Suggested all={offered} onTake={puttingIn.suggestion} />
            {w.quoted?.trim() && w.along !== 'letter' && (
              <details className="border-t border-line py-2 text-[13px] text-ink-2">
                <summary className="cursor-pointer">
                  {w.kind === 'hand-on'
                    ? 'The letter goes along below your text'
                    : 'Their letter is quoted below your text'}
                </summary>
                <pre className="serif max-h-40 overflow-auto !text-[14px] whitespace-pre-wrap text-ink-2">
                  {w.quoted}
                </pre>
                <button type="button" className="btn mt-1 btn-small" onClick={() => type({ quoted: ' ' })}>
                  Leave it out
                </button>
              </details>
            )}
            <Attached
              open={open}
              conversation={conversation}
              choose={choose}
              onFiles={(files) => bring(files)}
              onTemplate={() => setAsking('template')}
            />
          </div>
          <ToFillIn w={w} />
          {doubts.length > 0 && <Doubts doubts={doubts} onBack={stay} onSend={send} />}
          <SendingRow
            w={w}
            draft={open.draft}
            leaves={leaves}
            until={until}
            onNoLater={() => (type({ later: '' }), setLeaves(undefined))}
            onNoWait={() => (type({ wait: '' }), setUntil(undefined))}
            onOthers={() => setAsking('others')}
            onDrop={drop}
          />
        </form>
      </div>
      <SendingDeck
        w={w}
        form={`form-${open.draft}`}
        holding={holding}
        seen={seen}
        onWait={() => setAsking('wait')}
        onLater={() => setAsking('later')}
        onTrack={track}
        onSeen={lookAt}
      />
      {time && (
        <Dialog title={time.title} onClose={() => setAsking(undefined)}>
          <PhraseBox
            label={time.label}
            onTake={(p) => {
              time.take(p.phrase, p.words)
              setAsking(undefined)
            }}
          />
        </Dialog>
      )}
      {asking === 'template' && (
        <PutInDialog
          written={ownText !== ''}
          onTake={(t) => {
            setAsking(undefined)
            toText()
            puttingIn.template(t)
          }}
          onKeep={(name) => {
            setAsking(undefined)
            puttingIn.keep(name, ownText)
          }}
          onClose={() => setAsking(undefined)}
        />
      )}
      {asking === 'others' && <OtherDrafts draft={open.draft} onClose={() => setAsking(undefined)} />}
    </div>
  )
}
