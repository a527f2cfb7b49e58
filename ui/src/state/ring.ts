import { useEffect, useRef } from 'react'
import type { FollowUp } from '../api/client'
import { kept } from './store'

/** Both are off until the person turns them on. */
export const withSound = kept('reminder-sound', false)
export const asNotification = kept('reminder-notification', false)

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

/** Tells of each reminder once, as it rings while the page is open. */
export function useRing(ringing: FollowUp[] | undefined) {
  const known = useRef<Set<number>>(undefined)
  useEffect(() => {
    if (!ringing) return
    const ids = new Set(ringing.map((f) => f.reminder ?? f.id))
    const fresh = known.current ? ringing.filter((f) => !known.current?.has(f.reminder ?? f.id)) : []
    known.current = ids
    if (fresh.length === 0) return
    if (withSound.get()) sound()
    if (asNotification.get() && 'Notification' in window && Notification.permission === 'granted') {
      for (const f of fresh)
        new Notification(f.title, { body: `Reminder of ${f.remind}`, tag: `ebbe-${f.reminder ?? f.id}` })
    }
  }, [ringing])
}
