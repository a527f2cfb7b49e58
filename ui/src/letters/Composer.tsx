import { Send } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { toast } from '../state/toast'
import { api, take, type Conversation } from '../api/client'
import { useAccounts, useOverview, usePhrase } from '../api/queries'
import { carryOut, undo } from '../state/commands'
import { answered } from '../state/followed'
import { serverNow } from '../state/time'
import { close, composing, fill, forget, giveBack, leave, save, type, type Open } from '../state/writing'
import { signedBy } from '../state/answering'
import { settled } from '../state/settle'
import { AddressField } from '../kit/AddressField'
import { PhraseBox } from '../days/PhraseBox'
import { Dialog } from '../kit/Dialog'
import { failed } from '../state/failed'

/** How long it is until a moment, in milliseconds. */
const msUntil = (at: string | undefined) => (at ? new Date(at).getTime() - serverNow().getTime() : 0)

function leavesIn(at: string | undefined): string {
  const seconds = Math.round(msUntil(at) / 1000)
  if (seconds < 2) return 'It leaves now.'
  if (seconds < 90) return `It leaves in ${seconds} seconds.`
  return `It leaves in ${Math.round(seconds / 60)} minutes.`
}

const plain = { plain: true } as const

const titles = { answer: 'Answer', 'hand-on': 'Hand on', new: 'New letter', again: 'Send again' } as const

/** Where a letter is written. What is typed is safe within a second. */
export function Composer({ open, conversation }: { open: Open; conversation?: Conversation }) {
  const { writing: w } = open
  const { data: accounts = [] } = useAccounts()
  const { data: overview } = useOverview()
  const [cc, setCc] = useState((w.cc ?? []).length > 0)
  const [asking, setAsking] = useState(false)
  /** The limit in words, as it was understood here. */
  const [until, setUntil] = useState<string>()
  const waits = usePhrase(w.wait ?? '', plain, Boolean(w.wait) && !until).data?.reading
  const text = useRef<HTMLTextAreaElement>(null)
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

  const form = useRef<HTMLFormElement>(null)
  const send = () => {
    // What stands in a field and was not taken yet is taken, or stops it.
    if (!settled(form.current)) return
    const now = composing.get() ?? open // with what was just taken
    const w = now.writing
    if (w.to.length === 0) {
      failed('The letter needs somebody to go to.')
      form.current?.querySelector<HTMLElement>('[role=combobox]')?.focus()
      return
    }
    const draft = open.draft
    const hides = open.conversation && !w.stay ? [open.conversation] : []
    close()
    void carryOut({
      path: 'send',
      body: { draft, conversation: open.conversation, saw: open.saw, version: open.version, writing: w },
      hides,
    }).then((sent) => {
      if (!sent) return giveBack(now)
      forget(draft)
      // Answered from a follow-up: that then asks what becomes of it.
      if (w.kind === 'answer' && /^\/(follow-ups|work)/.test(location.pathname)) answered.set(open.conversation)
      toast(sent.title, {
        description: leavesIn(sent.leavesAt),
        duration: Math.max(4000, msUntil(sent.leavesAt) - 1000),
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

  const answers = conversation && w.kind === 'answer'
  return (
    <form
      ref={form}
      className="flex min-h-0 flex-1 flex-col overflow-y-auto px-6 pt-4 pb-3 max-md:px-4"
      aria-label={titles[w.kind]}
      onSubmit={(e) => {
        e.preventDefault()
        send()
      }}
      onKeyDown={(e) => {
        if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
          e.preventDefault()
          send()
        }
        if (e.key === 'Escape' && !asking) leave()
      }}
    >
      <div className="flex items-center gap-2 pb-2">
        <h2 className="min-w-0 flex-1 truncate text-[17px] font-semibold">
          {titles[w.kind]} {conversation && <span className="font-normal text-ink-3">{conversation.title}</span>}
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
                setCc(to.cc.length > 0)
              }}
            />
            to all
          </label>
        )}
        {!cc && (
          <button type="button" className="btn btn-small" onClick={() => setCc(true)}>
            Copy to…
          </button>
        )}
      </div>
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
          {accounts.map((a) => (
            <option key={a.id} value={a.address.toLowerCase()}>
              {a.name} ({a.address})
            </option>
          ))}
        </select>
      </div>
      <AddressField label="To" value={w.to} onChange={(to) => type({ to })} autoFocus={w.kind !== 'answer'} />
      {overview?.confined && (
        <p role="note" className="mt-1 rounded-lg bg-lamp-2 px-3 py-1 text-[13px] text-lamp">
          No mail service is connected: letters reach only people of this Ebbe.
        </p>
      )}
      {cc && <AddressField label="Copy" value={w.cc ?? []} onChange={(list) => type({ cc: list })} />}
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
      <div className="flex min-h-28 flex-1 flex-col overflow-y-auto">
        <textarea
          ref={text}
          data-writing
          aria-label="Text"
          className="serif mt-2 min-h-24 flex-1 resize-none bg-transparent !outline-none"
          value={w.text}
          placeholder={w.kind === 'hand-on' ? 'A line for whoever gets it' : 'Write here'}
          onChange={(e) => type({ text: e.target.value })}
        />
        {w.quoted && (
          <details className="border-t border-line py-2 text-[13px] text-ink-2">
            <summary className="cursor-pointer">
              {w.kind === 'hand-on'
                ? 'The letter goes along below your text'
                : 'Their letter is quoted below your text'}
            </summary>
            <pre className="serif max-h-40 overflow-auto !text-[14px] whitespace-pre-wrap text-ink-2">{w.quoted}</pre>
            <button type="button" className="btn mt-1 btn-small" onClick={() => type({ quoted: ' ' })}>
              Leave it out
            </button>
          </details>
        )}
      </div>
      <div className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-2 border-t border-line pt-3 text-[13px]">
        {w.kind !== 'new' && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="size-4 accent-[var(--tide)]"
              checked={w.stay ?? false}
              onChange={(e) => type({ stay: e.target.checked })}
            />
            leave it here
          </label>
        )}
        <label className="flex items-center gap-2" title="Their program asks them whether it may tell you">
          <input
            type="checkbox"
            className="size-4 accent-[var(--tide)]"
            checked={w.receipt ?? false}
            onChange={(e) => type({ receipt: e.target.checked })}
          />
          ask for a receipt
        </label>
        <button type="button" className="btn btn-small" onClick={() => setAsking(true)}>
          {w.wait
            ? `Waits until ${until ?? waits?.words ?? w.wait}`
            : w.kind === 'hand-on'
              ? 'Waits one week for an answer'
              : 'Wait for answer…'}
        </button>
        {w.wait && (
          <button type="button" className="btn btn-small" onClick={() => (type({ wait: '' }), setUntil(undefined))}>
            {w.kind === 'hand-on' ? 'One week' : 'Don’t wait'}
          </button>
        )}
        {(w.wait || w.kind === 'hand-on') && w.to.length > 1 && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="size-4 accent-[var(--tide)]"
              checked={w.waitAll ?? false}
              onChange={(e) => type({ waitAll: e.target.checked })}
            />
            until all {w.to.length} have answered
          </label>
        )}
        <span className="flex-1" />
        <button type="button" className="btn" onClick={drop}>
          Throw away
        </button>
        <button type="button" className="btn" onClick={leave}>
          Keep draft <span className="key">Esc</span>
        </button>
        <button type="submit" className="btn btn-main">
          <Send className="size-4" aria-hidden />{' '}
          {w.kind === 'hand-on' ? 'Hand on' : w.kind === 'answer' && !w.stay ? 'Send and archive' : 'Send'}
          <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Ctrl ↵</span>
        </button>
      </div>
      {asking && (
        <Dialog title="Wait for an answer until" onClose={() => setAsking(false)}>
          <PhraseBox
            label="Wait until"
            onTake={(p) => {
              type({ wait: p.phrase })
              setUntil(p.words)
              setAsking(false)
            }}
          />
        </Dialog>
      )}
    </form>
  )
}
