import { useEffect, useRef, useState, type ClipboardEvent, type DragEvent, type KeyboardEvent } from 'react'
import { useQuery } from '@tanstack/react-query'
import { toast } from '../state/toast'
import { api, errorText, take, type Conversation, type Doubt, type Suggestion, type Template } from '../api/client'
import { useAccounts, useAsks, useOverview, useSuggestions } from '../api/queries'
import { attach, settledFiles } from '../state/attaching'
import { capturing } from '../state/capturing'
import { carryOut, told, undo } from '../state/commands'
import { answered } from '../state/followed'
import { filesOf } from '../state/files'
import { useLatest } from '../state/latest'
import { insert, setMarks, type Mark } from '../state/markdown'
import { quoted } from '../state/quoting'
import { dayAndClock, serverNow } from '../state/time'
import { close, composing, fill, forget, giveBack, leave, save, type, type Open } from '../state/writing'
import { accountOf, signed, signedBy, writesFrom } from '../state/answering'
import { settled } from '../state/settle'
import { Dialog } from '../kit/Dialog'
import { PhraseBox } from '../days/PhraseBox'
import { failed } from '../state/failed'
import { Answered } from './Answered'
import { Asks } from './Asks'
import { Attached } from './Attached'
import { Doubts } from './Doubts'
import { Suggested } from './Suggested'
import { ToFillIn } from './ToFillIn'
import { PutInDialog } from './PutInDialog'
import { MarkBar } from './MarkBar'
import { OtherDrafts } from './OtherDrafts'
import { Receivers } from './Receivers'
import { SendingDeck } from './SendingDeck'
import { SendingRow } from './SendingRow'
import { SeenAs } from './SeenAs'

/** How long it is until a moment, in milliseconds. */
const msUntil = (at: string | undefined) => (at ? new Date(at).getTime() - serverNow().getTime() : 0)

function leavesIn(at: string | undefined): string {
  const seconds = Math.round(msUntil(at) / 1000)
  if (seconds < 2) return 'It leaves now.'
  if (seconds < 90) return `It leaves in ${seconds} seconds.`
  if (seconds < 5400) return `It leaves in ${Math.round(seconds / 60)} minutes.`
  return `It leaves ${dayAndClock(at ?? '')}. Ahead has it until then.`
}

const titles = { answer: 'Answer', 'hand-on': 'Hand on', new: 'New letter', again: 'Send again' } as const

/** How long what is doubtful is waited for before a letter goes, in ms: it is a courtesy. */
const doubting = 2000

/** What comes in time and without a fault; else something in its place. */
const inTime = <T,>(coming: Promise<T>, otherwise: T) =>
  Promise.race([coming.catch(() => otherwise), new Promise<T>((done) => setTimeout(() => done(otherwise), doubting))])

/** Where a letter is written, beside the one that it is about. What is typed is safe within
 * a second. */
export function Composer({ open, conversation }: { open: Open; conversation?: Conversation }) {
  const { writing: w } = open
  const { data: accounts = [] } = useAccounts()
  const { data: overview } = useOverview()
  const account = accountOf(w.from, accounts)
  const { data: asks = [] } = useAsks(w)
  const { data: proposed = [] } = useSuggestions(w)
  const [asking, setAsking] = useState<'wait' | 'later' | 'others' | 'template'>()
  const [seen, setSeen] = useState(false)
  const [doubts, setDoubts] = useState<Doubt[]>([])
  /** On a narrow page one is in sight at a time. */
  const [at, setAt] = useState<'letter' | 'answer'>('answer')
  /** The send waits for files that are on their way. */
  const [holding, setHolding] = useState(false)
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
    enabled: Boolean(w.letter) && !w.quoted && w.kind !== 'again',
  })
  useEffect(() => {
    if (quote.data && !w.quoted && w.kind !== 'again') fill({ quoted: quote.data })
  }, [quote.data, w.quoted, w.kind])
  useEffect(() => {
    if (w.kind === 'answer') {
      text.current?.focus()
      text.current?.setSelectionRange(0, 0)
    }
  }, [w.kind])
  useEffect(() => {
    const keep = () => void save()
    addEventListener('pagehide', keep)
    return () => removeEventListener('pagehide', keep)
  }, [])

  /** What was asked about once is not asked about again. */
  const asked = useRef('')
  const busy = useRef(false)
  const send = async () => {
    if (busy.current) return // a key that is pressed twice asks once
    busy.current = true
    await trySend().finally(() => (busy.current = false))
  }
  const trySend = async () => {
    // What stands in a field and was not taken yet is taken, or stops it.
    if (!settled(form.current)) return
    const now = composing.get() ?? open // with what was just taken
    const w = now.writing
    if (w.to.length === 0) {
      failed('The letter needs somebody to go to.')
      form.current?.querySelector<HTMLElement>('[role=combobox]')?.focus()
      return
    }
    const files = (w.files ?? []).map((f) => f.id)
    setHolding(true)
    await settledFiles(files)
    if (composing.get()?.draft !== now.draft) return // it was left meanwhile
    setHolding(false)
    const [read, doubtful] = await inTime(
      Promise.all([
        take(api.POST('/api/addresses', { body: { text: [...w.to, ...(w.cc ?? []), ...(w.bcc ?? [])].join('\n') } })),
        take(api.POST('/api/doubts', { body: { ...w, quoted: undefined } })),
      ]),
      [[], []],
    )
    if (composing.get()?.draft !== now.draft) return
    const wrong = read.find((a) => a.trouble)?.trouble
    if (wrong) return failed(`${wrong}. Mend it, or take it out.`)
    const stops = doubtful.find((d) => d.stops)
    if (stops) {
      failed(stops.words)
      return fillIn()
    }
    const about = JSON.stringify(doubtful)
    if (doubtful.length > 0 && asked.current !== about) {
      asked.current = about
      return setDoubts(doubtful)
    }
    const draft = now.draft
    const hides = now.conversation && !w.stay ? [now.conversation] : []
    const going = composing.get() ?? now
    close()
    void carryOut({
      path: 'send',
      body: { draft, conversation: going.conversation, saw: going.saw, version: going.version, writing: going.writing },
      hides,
    }).then((sent) => {
      if (!sent) return giveBack(going)
      forget(draft)
      // Answered from a follow-up: that then asks what becomes of it.
      if (w.kind === 'answer' && /^\/(follow-ups|work)/.test(location.pathname)) answered.set(going.conversation)
      toast(sent.title, {
        description: leavesIn(sent.leavesAt),
        duration: Math.min(Math.max(4000, msUntil(sent.leavesAt) - 1000), 60_000),
        action: { label: 'Undo', onClick: () => void undo() },
      })
    })
  }

  const drop = () => {
    const draft = open.draft
    void save().then(() => {
      forget(draft)
      void carryOut({ path: 'drop-draft', id: draft, body: {} }).then(
        (o) => o && toast('Draft thrown away', { action: { label: 'Undo', onClick: () => void undo() } }),
      )
    })
  }

  const toText = () => {
    setSeen(false)
    setAt('answer')
    requestAnimationFrame(() => text.current?.focus())
  }
  const stay = () => {
    setDoubts([])
    toText()
  }
  const quoteIn = (some: string) => {
    if (!some.trim()) return
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
  const takeSuggestion = (s: Suggestion | undefined) => {
    if (!s || !text.current) return
    text.current.setSelectionRange(0, 0)
    insert(text.current, `${s.text}\n`, false)
    type({ fields: [...new Set([...(w.fields ?? []), ...(s.fields ?? [])])] })
    fillIn()
  }
  const putIn = (t: Template) => {
    setAsking(undefined)
    const { draft, writing } = composing.get() ?? open
    take(api.POST('/api/templates/{id}/filled', { params: { path: { id: t.id } }, body: { draft, writing } })).then(
      ({ text, subject, markdown, fields, files }) => {
        if (composing.get()?.draft !== draft) return
        type({ text, subject, markdown, fields, files })
        toText()
        fillIn()
      },
      (e: unknown) => failed(errorText(e, 'The template could not be put in.')),
    )
  }
  const keepAsTemplate = (name: string) => {
    setAsking(undefined)
    void carryOut({
      path: 'new-template',
      body: { name, subject: w.subject, text: ownText, markdown: w.markdown },
    }).then(told)
  }
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
    Digit1: () => takeSuggestion(offered[0]),
    Digit2: () => takeSuggestion(offered[1]),
    Digit3: () => takeSuggestion(offered[2]),
  }
  const keys = useLatest((e: KeyboardEvent) => {
    if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
      e.preventDefault()
      void send()
    } else if (e.altKey && !e.ctrlKey && !e.metaKey && alt[e.code]) {
      e.preventDefault()
      alt[e.code]?.()
    } else if (e.key === 'Escape' && !asking) {
      if (doubts.length > 0) stay()
      else if (seen) toText()
      else leave()
    }
  })
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

  const list = <Asks asks={asks} />
  const answers = conversation && w.kind === 'answer'
  return (
    <div
      ref={room}
      className="@container flex min-h-0 min-w-0 flex-1 flex-col"
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
            void send()
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
            {(accounts.length > 1 || (account && account.sendAs.length + account.more.length > 0)) && (
              <div className="flex items-center gap-1 border-b border-line py-1 text-[14px]">
                <label htmlFor="from" className="w-16 shrink-0 text-ink-3">
                  From
                </label>
                <select
                  id="from"
                  className="min-w-0 flex-1 bg-paper py-1"
                  value={w.from}
                  onChange={(e) => type({ from: e.target.value, text: signedBy(w.text, w.from, e.target.value) })}
                >
                  {accounts.flatMap((a) =>
                    writesFrom(a).map((as) => (
                      <option key={as.email} value={as.email.toLowerCase()}>
                        {as.name || a.name} ({as.email})
                      </option>
                    )),
                  )}
                </select>
                {account && account.more.length > 0 && (
                  <select
                    aria-label="Signature"
                    className="max-w-40 bg-paper py-1"
                    value=""
                    onChange={(e) => {
                      const block = [account.block, ...account.more.map((m) => m.block ?? '')][Number(e.target.value)]
                      type({ text: signed(w.text, w.from, `\n${block ?? ''}`) })
                    }}
                  >
                    <option value="">Signature…</option>
                    {['usual', ...account.more.map((m) => m.name)].map((name, i) => (
                      <option key={name} value={i}>
                        {name}
                      </option>
                    ))}
                  </select>
                )}
              </div>
            )}
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
            <Suggested all={offered} onTake={takeSuggestion} />
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
          {doubts.length > 0 && <Doubts doubts={doubts} onBack={stay} onSend={() => void send()} />}
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
      {asking === 'wait' && (
        <Dialog title="Wait for an answer until" onClose={() => setAsking(undefined)}>
          <PhraseBox
            label="Wait until"
            onTake={(p) => {
              type({ wait: p.phrase })
              setUntil(p.words)
              setAsking(undefined)
            }}
          />
        </Dialog>
      )}
      {asking === 'later' && (
        <Dialog title="Send it" onClose={() => setAsking(undefined)}>
          <PhraseBox
            label="Send it"
            onTake={(p) => {
              type({ later: p.phrase })
              setLeaves(p.words)
              setAsking(undefined)
            }}
          />
        </Dialog>
      )}
      {asking === 'template' && (
        <PutInDialog
          written={ownText !== ''}
          onTake={putIn}
          onKeep={keepAsTemplate}
          onClose={() => setAsking(undefined)}
        />
      )}
      {asking === 'others' && <OtherDrafts draft={open.draft} onClose={() => setAsking(undefined)} />}
    </div>
  )
}
