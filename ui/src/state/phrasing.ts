import { useCallback, useEffect, useState, type KeyboardEvent } from 'react'
import type { Proposal } from '../api/client'
import { usePhrase, type PhraseFor } from '../api/queries'
import { carryOut } from './commands'
import { useOnline } from './online'
import { useReady } from './ready'

/** A phrase as it is typed: what it means, what else is offered, and the keys
 * that go with it, wherever a time is asked for. */
export function usePhrasing(props: {
  typed: string
  onType: (text: string) => void
  about?: PhraseFor
  /** Offered before the computed ones, such as the old time. */
  first?: Proposal[]
  onTake: (p: Proposal) => void
}) {
  const { typed, onType, onTake } = props
  const [at, setAt] = useState(0)
  const [wanted, setWanted] = useState(false)
  const { data, isFetching, isPlaceholderData } = usePhrase(typed.trim(), props.about ?? { plain: true })
  // Without the server only what was read before can be taken, and no more than a time.
  const away = !useOnline()
  const ready = useReady(typed, away && props.about?.as !== 'recurs' && props.about?.as !== 'remind')
  const read = away ? ready[0] : data?.reading
  const reading = typed.trim() ? read : undefined
  const others = away && typed.trim() ? ready : [...(props.first ?? []), ...(data?.proposals ?? [])]
  const offers = [...(reading ? [reading] : []), ...others].filter(
    (p, i, all) => all.findIndex((o) => o.phrase === p.phrase) === i,
  )
  useEffect(() => {
    setAt(0)
    setWanted(false)
  }, [typed])
  const refused = typed.trim() && !isPlaceholderData ? data?.trouble : undefined
  const unread =
    typed.trim() && !reading ? 'Ebbe can’t be reached, and “' + typed.trim() + '” can’t be read without it.' : undefined
  const trouble = away ? unread : refused
  // What was typed must be understood before it is taken; never an older reading.
  const settled = away || (!isPlaceholderData && !(isFetching && !data))
  const takes = useCallback(
    (p: Proposal) => {
      // A place that nobody has named yet is named before anything waits for it.
      if (p.makes) void carryOut({ path: 'new-spot', body: { name: p.makes } })
      onTake(p)
    },
    [onTake],
  )
  const take = (p: Proposal | undefined) => {
    if (p && (p !== reading || settled)) takes(p)
  }
  // Enter before it is understood is kept until it is.
  useEffect(() => {
    if (!wanted || !settled) return
    setWanted(false)
    if (reading) takes(reading)
  }, [wanted, settled, reading, takes])
  const onKey = (e: KeyboardEvent) => {
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      e.preventDefault()
      setAt((n) => Math.min(Math.max(n + (e.key === 'ArrowDown' ? 1 : -1), 0), offers.length - 1))
    } else if (e.altKey && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) {
      // The time in focus moves along the day line: a quarter of an hour, with Shift a day.
      const from = offers[at]?.at
      if (!from) return
      e.preventDefault()
      const by = (e.shiftKey ? 24 * 60 : 15) * (e.key === 'ArrowLeft' ? -1 : 1)
      onType(new Date(new Date(from).getTime() + by * 60_000).toISOString().slice(0, 16) + 'Z')
    } else if (e.altKey && /^Digit[1-9]$/.test(e.code)) {
      e.preventDefault()
      take(offers[Number(e.code.slice(5)) - 1])
    } else if (e.altKey && e.key.length === 1) {
      const own = offers.find((p) => p.key && p.key === e.key.toLowerCase())
      if (own) {
        e.preventDefault()
        take(own)
      }
    }
  }
  /** Takes what is in focus, or what was typed as soon as it is understood. */
  const enter = () => {
    if (typed.trim() && at === 0 && (!reading || !settled)) setWanted(!away)
    else take(offers[at])
  }
  return { data, reading, offers, at, trouble, away, take, onKey, enter }
}

/** How an offered time is named: its own key, or its place in the list. */
export const offerKey = (p: Proposal, i: number) => (p.key ? `Alt ${p.key.toUpperCase()}` : i < 9 ? `Alt ${i + 1}` : '')
