import { useEffect } from 'react'
import { onStale, type News, type Reading } from './client'
import { client } from './queries'
import { setOnline } from '../state/online'
import { resend, wasMine } from '../state/commands'

const waiting = new Set<Reading>()
let timer: ReturnType<typeof setTimeout> | undefined

/** Refreshes a moment later, so that a hundred changes at once are one. */
export function refresh(names: Reading[]) {
  for (const n of names) waiting.add(n)
  timer ??= setTimeout(() => {
    timer = undefined
    const now = [...waiting]
    waiting.clear()
    for (const n of now) void client.invalidateQueries({ queryKey: [n] })
  }, 120)
}

/** Reads again what a command has made stale, as its answer says, but for what the
 * page has brought up to date itself. */
export function makeStale(names: string | null, but: Reading[] = []) {
  if (names === '*') void client.invalidateQueries()
  else if (names) refresh((names.split(',') as Reading[]).filter((n) => !but.includes(n)))
}
onStale(makeStale)

function hear(news: News) {
  if (news.everything) void client.invalidateQueries()
  // What this page did itself it has heard of with the answer.
  else if (news.command === undefined || !wasMine(news.command)) refresh(news.stale)
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
