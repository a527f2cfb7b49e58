import { useRef, useState, type RefObject } from 'react'
import { api, take, type Doubt } from '../api/client'
import { settledFiles } from '../state/attaching'
import { carryOut, tellDone } from '../state/commands'
import { failed } from '../state/failed'
import { answered } from '../state/followed'
import { settled } from '../state/settle'
import { dayAndClock, serverNow } from '../state/time'
import { close, composing, forget, giveBack, type Open } from '../state/writing'

/** How long it is until a moment, in milliseconds. */
const msUntil = (at: string | undefined) => (at ? new Date(at).getTime() - serverNow().getTime() : 0)

function leavesIn(at: string | undefined): string {
  const seconds = Math.round(msUntil(at) / 1000)
  if (seconds < 2) return 'It leaves now.'
  if (seconds < 90) return `It leaves in ${seconds} seconds.`
  if (seconds < 5400) return `It leaves in ${Math.round(seconds / 60)} minutes.`
  return `It leaves ${dayAndClock(at ?? '')}. Ahead has it until then.`
}

/** How long what is doubtful is waited for before a letter goes, in ms: it is a courtesy. */
const doubting = 2000

/** What comes in time and without a fault; else something in its place. */
const inTime = <T>(coming: Promise<T>, otherwise: T) =>
  Promise.race([coming.catch(() => otherwise), new Promise<T>((done) => setTimeout(() => done(otherwise), doubting))])

/** Sends what is open: its fields are taken, its files waited for, its addresses read, and
 * what is doubtful is asked about once. */
export function useSending(open: Open, form: RefObject<HTMLFormElement | null>, onUnfilled: () => void) {
  const [doubts, setDoubts] = useState<Doubt[]>([])
  /** The send waits for files that are on their way. */
  const [holding, setHolding] = useState(false)
  /** What was asked about once is not asked about again. */
  const asked = useRef('')
  const busy = useRef(false)
  /** What goes is being read: what is typed now was meant for what comes after it. */
  const reading = useRef(false)

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
    reading.current = true
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
      return onUnfilled()
    }
    const about = JSON.stringify(doubtful)
    if (doubtful.length > 0 && asked.current !== about) {
      asked.current = about
      return setDoubts(doubtful)
    }
    go(composing.get() ?? now)
  }

  const send = async () => {
    if (busy.current) return // a key that is pressed twice asks once
    busy.current = true
    await trySend().finally(() => (busy.current = reading.current = false))
  }

  return { send: () => void send(), reading, doubts, noDoubts: () => setDoubts([]), holding }
}

function go(going: Open) {
  const { draft, conversation, saw, version, writing } = going
  const hides = conversation && !writing.stay ? [conversation] : []
  close()
  void carryOut({ path: 'send', body: { draft, conversation, saw, version, writing }, hides }).then((sent) => {
    if (!sent) return giveBack(going)
    forget(draft)
    // Answered from a follow-up: that then asks what becomes of it.
    if (writing.kind === 'answer' && /^\/(follow-ups|work)/.test(location.pathname)) answered.set(conversation)
    tellDone(sent.title, {
      description: leavesIn(sent.leavesAt),
      duration: Math.min(Math.max(4000, msUntil(sent.leavesAt) - 1000), 60_000),
    })
  })
}
