import { useEffect } from 'react'
import { client } from './queries'
import { setOnline } from '../state/online'
import { resend, wasMine } from '../state/commands'

interface News {
  kinds: string[]
  conversations?: number[]
  command?: string
}

/** Which cached answers each kind of change makes stale. A kind that is not
 * listed makes all of them stale: a page may ask once too often, but it never
 * misses what changed. */
const stale: Record<string, string[]> = {
  conversation: [
    'list',
    'conversation',
    'replies',
    'overview',
    'day',
    'ahead',
    'labels',
    'journal',
    'spots',
    'catch-up',
  ],
  letter: ['conversation'],
  followup: ['follow-ups', 'overview', 'day', 'ahead', 'list', 'conversation', 'journal'],
  reminder: ['follow-ups', 'overview', 'ahead', 'day', 'rang'],
  expectation: ['waiting', 'overview', 'ahead', 'day', 'conversation', 'list'],
  appointment: ['ahead', 'day', 'overview', 'phrase', 'conversation', 'letter', 'follow-ups', 'journal'],
  outbox: ['overview', 'conversation', 'journal'],
  hold: ['overview', 'day', 'journal', 'delivery', 'phrase'],
  gate: ['overview', 'delivery'],
  through: ['delivery', 'journal'],
  draft: ['drafts', 'overview'],
  import: ['imports'],
  account: ['accounts', 'journal', 'delivery', 'overview'],
  sender: ['conversation', 'letter', 'journal'],
  spot: ['spots', 'phrase', 'ahead', 'list'],
  person: ['settings', 'delivery', 'spots', 'phrase', 'overview', 'day', 'ahead', 'waiting', 'follow-ups', 'list'],
  settings: ['settings', 'phrase'],
  stuck: ['overview'],
  seen: [],
}

const waiting = new Set<string>()
let timer: ReturnType<typeof setTimeout> | undefined

/** Refreshes a moment later, so that a hundred changes at once are one. */
export function refresh(names: string[]) {
  for (const n of names) waiting.add(n)
  timer ??= setTimeout(() => {
    timer = undefined
    const now = [...waiting]
    waiting.clear()
    for (const n of now) void client.invalidateQueries({ queryKey: [n] })
  }, 120)
}

export function refreshFor(kind: string) {
  const names = stale[kind]
  if (names) refresh(names)
  else void client.invalidateQueries()
}

function hear(news: News) {
  if (news.kinds.some((kind) => !stale[kind])) {
    void client.invalidateQueries()
    return
  }
  // What this page did itself has left its lists already.
  const mine = news.command !== undefined && wasMine(news.command)
  for (const kind of news.kinds) {
    refresh((stale[kind] ?? []).filter((name) => !(mine && name === 'list' && kind === 'conversation')))
  }
}

/** Listens to the server's changes while the page is open. */
export function useLive(on: boolean) {
  useEffect(() => {
    if (!on) return
    let source: EventSource | undefined
    let again: ReturnType<typeof setTimeout> | undefined
    let before = false
    const open = () => {
      source = new EventSource('/api/events')
      source.addEventListener('ready', () => {
        setOnline(true)
        if (before) void client.invalidateQueries() // something may have been missed
        before = true
        void resend()
      })
      source.addEventListener('change', (e) => hear(JSON.parse((e as MessageEvent<string>).data) as News))
      source.onerror = () => {
        setOnline(false)
        source?.close()
        again = setTimeout(open, 1000)
      }
    }
    // What the browser says of its network is heard at once, either way.
    const lost = () => setOnline(false)
    const found = () => {
      clearTimeout(again)
      source?.close()
      open()
    }
    addEventListener('offline', lost)
    addEventListener('online', found)
    open()
    return () => {
      removeEventListener('offline', lost)
      removeEventListener('online', found)
      clearTimeout(again)
      source?.close()
    }
  }, [on])
}
