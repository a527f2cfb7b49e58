import { useEffect } from 'react'
import type { Overview } from '../api/client'
import { kept } from './store'

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

/** What was told already; pages of one browser share it, so that each thing is
 * told once. */
const toldOf = kept<string[]>('told-of', [])

/** Tells once of what the server says may be told of, and counts in the page's
 * title and icon if the person wants that. */
export function useNotices(overview: Overview | undefined) {
  const notices = overview?.notices
  useEffect(() => {
    if (!notices) return
    const fresh = notices.filter((n) => !toldOf.get().includes(n.key))
    if (fresh.length === 0) return
    toldOf.set((was) => [...was, ...fresh.map((n) => n.key)].slice(-200))
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
  }, [notices])
  const inbox = overview?.inbox
  const count = overview?.count
  useEffect(() => {
    document.title = inbox === undefined ? 'Ebbe' : !count ? 'Ebbe' : `${inbox === 0 ? 'Low water' : inbox} · Ebbe`
    const icon = document.querySelector<HTMLLinkElement>('link[rel=icon]')
    if (icon) icon.href = count && inbox ? counted(inbox) : '/mark.svg'
  }, [inbox, count])
}

/** The page's icon with a number on it. */
function counted(n: number): string {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 64
  const pen = canvas.getContext('2d')
  if (!pen) return '/mark.svg'
  pen.fillStyle = '#0c6a70'
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
