import { useEffect } from 'react'
import type { NotificationView, Overview } from '../api/client'
import { own } from './mine'

/** Asks the browser, which asks the person. */
export async function allowNotifications(): Promise<boolean> {
  if (!('Notification' in window)) return false
  return (await Notification.requestPermission()) === 'granted'
}

/** Two short tones. */
export function sound() {
  const audio = new AudioContext()
  for (const [at, tone] of [
    [0, 660],
    [0.18, 880],
  ] as const) {
    const wave = audio.createOscillator()
    const loud = audio.createGain()
    wave.frequency.value = tone
    loud.gain.setValueAtTime(0.15, audio.currentTime + at)
    loud.gain.exponentialRampToValueAtTime(0.001, audio.currentTime + at + 0.3)
    wave.connect(loud).connect(audio.destination)
    wave.start(audio.currentTime + at)
    wave.stop(audio.currentTime + at + 0.3)
  }
}

/** What was told already, and what of it is counted until a page is looked at;
 * pages of one browser share both, so that each thing is told once. */
const toldOf = own<string[]>('told-of', [], true)
const unseen = own<string[]>('unseen', [], true)

const looked = () => document.visibilityState === 'visible' && document.hasFocus()

/** Two pages hear of a thing at the same moment; the second finds it told. */
async function tell(notifications: NotificationView[]) {
  if ('locks' in navigator) return navigator.locks.request('ebbe-notices', () => tellNow(notifications))
  tellNow(notifications)
}

function tellNow(notifications: NotificationView[]) {
  toldOf.reload()
  const fresh = notifications.filter((n) => !toldOf.get().includes(n.key))
  if (fresh.length === 0) return
  toldOf.set((was) => [...was, ...fresh.map((n) => n.key)].slice(-200))
  const counted = fresh.filter((n) => n.count).map((n) => n.key)
  if (!looked()) unseen.set((was) => [...was, ...counted])
  if (fresh.some((n) => n.sound)) sound()
  if (!('Notification' in window) || Notification.permission !== 'granted') return
  for (const n of fresh.filter((n) => n.browser)) {
    const note = new Notification(n.title, { body: n.text, tag: `ebbe-${n.key}` })
    note.onclick = () => {
      window.focus()
      location.assign(
        n.conversation ? `/letter/${n.conversation}` : n.followUp ? `/follow-ups?open=${n.followUp}` : '/inbox',
      )
    }
  }
}

/** Tells once of what the server says may be told of, and counts in the page's
 * title and icon what the person wants counted. */
export function useNotices(overview: Overview | undefined, view: string) {
  const notifications = overview?.notifications
  useEffect(() => {
    if (notifications) void tell(notifications)
  }, [notifications])
  const news = unseen.use().length
  useEffect(() => {
    const seen = () => looked() && unseen.get().length > 0 && unseen.set([])
    seen()
    addEventListener('focus', seen)
    document.addEventListener('visibilitychange', seen)
    return () => {
      removeEventListener('focus', seen)
      document.removeEventListener('visibilitychange', seen)
    }
  }, [news]) // another page may have counted what this one shows
  const inbox = overview?.count ? overview.inbox : undefined
  useEffect(() => {
    const parts = [news > 0 && `${news} new`, inbox === 0 ? 'Low water' : inbox, view, 'Ebbe']
    document.title = parts.filter((part) => part !== undefined && part !== false && part !== '').join(' · ')
    const icon = document.querySelector<HTMLLinkElement>('link[rel=icon]')
    if (icon) icon.href = news ? numbered(news, '#8a5200') : inbox ? numbered(inbox, '#0c6a70') : '/mark.svg'
  }, [news, inbox, view])
}

/** The page's icon with a number on it. */
function numbered(n: number, colour: string): string {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 64
  const pen = canvas.getContext('2d')
  if (!pen) return '/mark.svg'
  pen.fillStyle = colour
  pen.beginPath()
  pen.roundRect(0, 0, 64, 64, 14)
  pen.fill()
  pen.fillStyle = '#fdfdfa'
  pen.font = `600 ${n > 99 ? 28 : 38}px sans-serif`
  pen.textAlign = 'center'
  pen.textBaseline = 'middle'
  pen.fillText(n > 999 ? '1k+' : String(n), 32, 35)
  return canvas.toDataURL('image/png')
}
