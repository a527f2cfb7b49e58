import { useEffect, useState } from 'react'
import { ringOf, ringOn } from '../state/sitting'
import { say } from '../state/spoken'

const around = 2 * Math.PI * 42

const clockOf = (seconds: number) => `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`

/** Stops the ring of a letter at the first character that is typed: it is being answered. */
export function useRingStops(id: number | undefined) {
  useEffect(() => {
    const typed = (e: Event) => {
      if (!(e.target instanceof Element) || !e.target.closest('[data-writing]')) return
      ringOf.set((was) => (was && was.id === id && was.stopped === undefined ? { ...was, stopped: Date.now() } : was))
    }
    addEventListener('input', typed)
    return () => removeEventListener('input', typed)
  }, [id])
}

/** How long the letter has been in sight, in seconds, and whether that is longer than it may take. */
function useRing(id: number, seconds: number) {
  const on = ringOn.use()
  const since = ringOf.use()
  const [, tick] = useState(0)
  useEffect(() => {
    if (ringOf.get()?.id !== id) ringOf.set({ id, from: Date.now() })
  }, [id])
  const mine = since?.id === id ? since : undefined
  const running = on && mine !== undefined && mine.stopped === undefined
  useEffect(() => {
    if (!running) return
    const timer = setInterval(() => tick((n) => n + 1), 1000)
    return () => clearInterval(timer)
  }, [running])
  const gone = mine ? Math.floor(((mine.stopped ?? Date.now()) - mine.from) / 1000) : 0
  return { on, gone, stopped: mine?.stopped !== undefined, past: running && gone >= seconds }
}

/** What is proposed of a letter that takes longer. */
interface Instead {
  id: number
  seconds: number
  onLater: () => void
  onFollowUp: () => void
}

function Alternatives({ onLater, onFollowUp }: Pick<Instead, 'onLater' | 'onFollowUp'>) {
  return (
    <>
      <button className="btn btn-small text-ink" onClick={onLater}>
        Later
      </button>
      <button className="btn btn-small text-ink" onClick={onFollowUp}>
        Follow up
      </button>
    </>
  )
}

/** Says that a letter takes longer than two minutes: aloud, and where there is no room for the ring. */
export function Past(props: Instead) {
  const { past } = useRing(props.id, props.seconds)
  useEffect(() => {
    if (past) say('It takes longer than two minutes. Put it off, or follow it up.')
  }, [past])
  if (!past) return null
  return (
    <p className="mx-4 mb-2 flex flex-wrap items-center gap-2 rounded-[12px] bg-lamp-2 px-3 py-1.5 text-lamp max-md:mx-2 lg:hidden">
      It takes longer than two minutes.
      <Alternatives {...props} />
    </p>
  )
}

/** The two minutes in which a letter can be answered, as a ring that shows what is left of them. */
export function Ring(props: Instead) {
  const { seconds } = props
  const { on, gone, stopped, past } = useRing(props.id, seconds)
  const whole = clockOf(seconds)
  return (
    <section aria-label="Two minutes" className="flex flex-col items-center gap-2 text-center">
      {on && (
        <>
          <div className="relative size-[88px]" role="timer" aria-label={`${clockOf(gone)} of ${whole}`}>
            <svg viewBox="0 0 100 100" className="size-full -rotate-90" aria-hidden>
              <circle cx="50" cy="50" r="42" fill="none" strokeWidth="8" className="stroke-shore-2" />
              <circle
                cx="50"
                cy="50"
                r="42"
                fill="none"
                strokeWidth="8"
                strokeLinecap="round"
                strokeDasharray={around}
                strokeDashoffset={around * Math.min(1, gone / seconds)}
                className={past ? 'stroke-lamp' : 'stroke-tide'}
              />
            </svg>
            <span className="absolute inset-0 grid place-content-center">
              <span className="text-[18px] font-bold tabular-nums">{clockOf(gone)}</span>
              <span className="text-[12px] text-ink-3">{stopped ? 'you are writing' : `of ${whole}`}</span>
            </span>
          </div>
          <p className="text-[13px] text-ink-2">
            {past ? 'It takes longer than two minutes.' : 'Quick enough to answer now?'}
          </p>
          {past && (
            <div className="flex flex-wrap justify-center gap-2">
              <Alternatives {...props} />
            </div>
          )}
        </>
      )}
      <button className="text-[12px] text-ink-3 underline" onClick={() => ringOn.set(!on)}>
        {on ? 'Without the ring' : 'With the two-minute ring'}
      </button>
    </section>
  )
}
