import { useEffect } from 'react'
import { cameAlong, forgetAlong, type News } from '../api/client'
import { client } from '../api/queries'
import { refresh } from '../api/stale'
import { resend, wasMine } from './commands'
import { setOnline } from './online'

function hear(news: News) {
  if (news.everything) void client.invalidateQueries()
  // What this page did itself it has heard of with the answer.
  else if (news.command === undefined || !wasMine(news.command)) refresh(news.stale, !document.hasFocus())
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
        if (before)
          void client.invalidateQueries() // something may have been missed
        else if (cameAlong) refresh(['list', 'overview', 'day', 'conversation', 'accounts'], true)
        before = true
        forgetAlong()
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
