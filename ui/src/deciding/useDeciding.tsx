import { useMemo, useState, type ReactNode } from 'react'
import { toast } from '../state/toast'
import type { Conversation, Proposal, Routine, Row } from '../api/client'
import { useRoutines } from '../api/queries'
import type { RoutineKey } from '../letters/RoutineRow'
import { useExtraKeys } from '../state/keys'
import { markBy, openBy } from '../state/routines'
import type { Instead } from '../state/again'
import { startAnswer, startHandOn } from '../state/answering'
import { carryOut, tellDone, told, type DecideBody, type DecisionBody } from '../state/commands'
import { actionOf, backFrom, backHint, deck as decisions, type Decision, type DecisionAction } from '../state/decisions'
import { targetOf, type Targets } from '../state/listing'
import { useLatest } from '../state/latest'
import { useForetold } from '../state/foretold'
import { Ask, type Asking } from './Ask'
import type { DeckKey } from '../letters/Deck'

export type Decide = (body: DecisionBody, on: Targets) => void

/** What is decided on, and how that is carried out where it is shown. */
export interface Decided {
  targets: () => Targets
  /** The letter in focus; and it read whole, once it is. */
  row?: Row | Conversation
  open?: Conversation
  rowOf: (id: number) => Row | Conversation | undefined
  /** How many are selected; and what they are called, rather than so many letters. */
  selected: number
  what?: string
  /** Where the list is, if the letter in focus doesn't say. */
  place?: string
  decide: Decide
  /** Makes a follow-up of letters that stay where they are; keeps tells that they
   * always do. */
  stay: Decide
  keeps?: boolean
  /** What is done before that for which a dialog has asked. */
  before?: (on: Targets) => void
  /** Opens the one letter that is meant, to write about it. */
  write: (start: (c: Conversation) => void) => void
  undo: () => void
}

/** Deciding on letters, wherever they are shown: what each key does and says now,
 * and the dialogs that ask for what a decision needs. */
export function useDeciding(on: Decided) {
  const [asking, setAsking] = useState<Asking>()
  const place = on.row?.place ?? on.place
  const away = backFrom(place)
  const ask = (what: Asking['what'], targets = on.targets(), more?: { row?: Row | Conversation; again?: Proposal }) => {
    const first = targets[0]
    if (first) setAsking({ what, on: targets, row: on.rowOf(first.id), ...more })
  }
  const needed: Record<Decision['needs'], (d: Decision) => void> = {
    nothing: (d) => on.decide({ kind: d.kind as DecideBody['kind'] }, on.targets()),
    letter: (d) => on.write(d.kind === 'answer' ? startAnswer : startHandOn),
    time: () => ask('later'),
    'follow-up': () => ask('follow-up'),
    labels: () => ask('file'),
  }
  const fetch = () => on.decide({ kind: 'inbox' }, on.targets())
  const press = {
    ...(Object.fromEntries(decisions.map((d) => [actionOf(d.kind), () => needed[d.needs](d)])) as Record<
      DecisionAction,
      () => void
    >),
    fetch,
    junk: () => {
      const junked = place === 'junk'
      on.decide({ kind: junked ? 'inbox' : 'junk' }, on.targets())
      tellDone(junked ? 'Not junk: back in the inbox' : 'Moved to Junk', {}, on.undo)
    },
  }
  const instead = (what: Instead) => press[what]()
  // As long again, in one key; from the third time on it asks, as Later does.
  const same = (row: Row | Conversation) => {
    if (!row.same) return toast('It was not put off before: press Later.')
    if (row.often) return ask('later', [targetOf(row)], { row, again: row.same })
    on.decide({ kind: 'later', when: row.same.phrase }, [targetOf(row)])
  }

  const n = on.selected
  const foretold = useForetold(on.open)
  const off = on.row || n > 0 ? undefined : 'no letter'
  const hints: Partial<Record<Decision['kind'], string>> = {
    answer: on.row && `to ${on.row.from.name || on.row.from.email}`,
    later: on.row?.putOffs ? `put off ${on.row.putOffs}×` : undefined,
    'follow-up': on.open?.action,
  }
  const words = decisions.map((d) => {
    const action = actionOf(d.kind)
    const one = d.needs === 'letter'
    const f = n === 0 && foretold.shown?.kind === d.kind ? foretold.shown : undefined
    const key = {
      action,
      name: d.name,
      hint: n > 1 && !one ? (on.what ?? `${n} letters`) : (hints[d.kind] ?? d.hint),
      off: one && n > 1 ? 'one at a time' : off,
      ...(f ? { likely: { words: f.words ?? '', reason: f.reason, taken: f.taken ?? false } } : {}),
    }
    // What is put away already can be brought back in place of that.
    if (d.kind === 'done' && away) return { ...key, name: away, hint: n > 1 ? key.hint : backHint }
    if (d.kind === 'bin' && place === 'bin') return { ...key, off: 'in the bin' }
    return key
  })
  const pressed = {
    ...press,
    done: away ? fetch : press.done,
    foretold: (e?: KeyboardEvent) => {
      const f = n === 0 && !e?.repeat ? foretold.taken() : undefined
      if (!f) return
      if (f.kind === 'follow-up') return press.followUp()
      on.decide(
        {
          kind: f.kind as DecideBody['kind'],
          ...(f.label ? { labels: [f.label] } : {}),
          ...(f.when ? { when: f.when } : {}),
        },
        on.targets(),
      )
    },
  }
  const onPress = useLatest((action: DecisionAction) => pressed[action]())
  // It is drawn anew only when it says something else.
  const said = JSON.stringify(words)
  const deck = useMemo(
    () => (JSON.parse(said) as typeof words).map((k): DeckKey => ({ ...k, press: () => onPress(k.action) })),
    [said, onPress],
  )

  // Routines say what they would do with the letter in focus; of several, what they do.
  const { data: all } = useRoutines()
  const runs = (r: Routine) => {
    const wrong = keyed.find((k) => k.id === r.id)?.off
    if (wrong) return toast(`“${r.name}” was not carried out: ${wrong}.`)
    const targets = on.targets()
    const decide = () => on.decide({ routine: r.id }, targets)
    if (r.opening) return openBy(r, r.opening, targets, on.write, decide)
    if (r.ends) return decide()
    if (targets.length > 0) void markBy(r, targets).then(told)
  }
  const keyed = (all ?? []).map((r) => {
    const here = n === 0 ? on.open?.routines.find((o) => o.id === r.id) : undefined
    return {
      id: r.id,
      name: r.name,
      keys: r.key,
      hint: here?.words ?? r.words,
      off: off ?? (r.opening && n > 1 ? 'one at a time' : (here ?? r).off),
    }
  })
  const onRun = useLatest((id: number) => {
    const r = all?.find((one) => one.id === id)
    if (r) runs(r)
  })
  const saidOfRoutines = JSON.stringify(keyed)
  const routines = useMemo(
    () => (JSON.parse(saidOfRoutines) as typeof keyed).map((k): RoutineKey => ({ ...k, press: () => onRun(k.id) })),
    [saidOfRoutines, onRun],
  )
  useExtraKeys(Object.fromEntries(routines.filter((r) => r.keys).map((r) => [r.keys, r.press])))

  const dialogs: ReactNode = asking && (
    <Ask
      asking={asking}
      keeps={on.keeps}
      onClose={() => setAsking(undefined)}
      onDecide={(body) => {
        setAsking(undefined)
        on.before?.(asking.on)
        on.decide(body, asking.on)
      }}
      onStay={(body) => {
        setAsking(undefined)
        on.stay(body, asking.on)
      }}
      onInstead={(what) => {
        setAsking(undefined)
        instead(what)
      }}
      onLabel={(labels) => {
        setAsking(undefined)
        for (const value of labels)
          void carryOut({ path: 'mark', body: { on: asking.on.map((t) => t.id), mark: 'label', value } })
      }}
    />
  )
  return { press: pressed, deck, routines, ask, same, dialogs, foretold: n === 0 ? foretold.shown : undefined }
}
