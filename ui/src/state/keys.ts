import { useLayoutEffect, useRef } from 'react'
import { decisions } from '../api/tables'
import { actionOf, type DecisionAction } from './decisions'
import { focusIsLost, giveFocus, isWriting } from './focus'
import { kept } from './store'
import { goings, viewOf, type GoAction } from './viewing'

const acts = {
  undo: { key: 'u', what: 'Undo the latest step', group: 'Decide' },
  redo: { key: 'U', what: 'Do again what was undone', group: 'Decide' },
  star: { key: 's', what: 'Star', group: 'Mark' },
  flag: { key: 'f', what: 'Flag: follow up today, leave it here; again: done', group: 'Mark' },
  flagWhen: { key: 'F', what: 'Flag for another time', group: 'Mark' },
  label: { key: 'l', what: 'Label', group: 'Mark' },
  quiet: { key: 'q', what: 'Quiet this conversation, or not', group: 'Mark' },
  sort: { key: 'y', what: 'Why it is here, and where letters like it go', group: 'Mark' },
  clear: { key: 'Y', what: 'Clearing session: all lists that send', group: 'Mark' },
  toReading: { key: 'r', what: 'To reading, undecided', group: 'Mark' },
  passOver: { key: 'd', what: 'Pass over what has come up out of the Shallows', group: 'Mark' },
  note: { key: 'e', what: 'Your note, working title and files', group: 'Mark' },
  same: { key: 'p', what: 'Put off as long again', group: 'Mark' },
  foretold: { key: 'Enter', what: 'Take the decision that is foretold, where it is sure', group: 'Decide' },
  next: { key: 'j', what: 'Next letter', group: 'Move' },
  previous: { key: 'k', what: 'Previous letter', group: 'Move' },
  open: { key: ' ', what: 'Read on, then the next letter', group: 'Move' },
  select: { key: 'x', what: 'Select', group: 'Move' },
  like: { key: 'z', what: 'Select all like this; again: alike in another way', group: 'Move' },
  whoWrote: { key: 'P', what: 'Who wrote it: all that is known of them', group: 'Read' },
  images: { key: 'i', what: 'Load remote pictures', group: 'Read' },
  unfold: { key: 'o', what: 'Unfold earlier letters', group: 'Read' },
  sit: { key: 'S', what: 'Sitting: one letter after the other, for a time', group: 'Go' },
  work: { key: 'w', what: 'Work through today’s follow-ups', group: 'Go' },
  fit: { key: 'g', what: 'Make today fit', group: 'Go' },
  appoint: { key: 'a', what: 'New appointment', group: 'Go' },
  compose: { key: 'n', what: 'New letter', group: 'Go' },
  capture: { key: 'c', what: 'New follow-up', group: 'Go' },
  hold: { key: 'h', what: 'Hold delivery, or let it in', group: 'Go' },
  find: { key: '/', what: 'Find', group: 'Go' },
  command: { key: '>', what: 'Do by name', group: 'Go' },
  only: { key: 'O', what: 'Only some of this list: unread, starred, with files, under a label …', group: 'Go' },
  scope: { key: ';', what: 'Found: look in the next place', group: 'Go' },
  bestFirst: { key: '=', what: 'Found: the best first, or the newest', group: 'Go' },
  keepSearch: { key: 'K', what: 'Found: keep this search, or see to the kept one', group: 'Go' },
  nextHit: { key: '.', what: 'Found: the next mark in the letter', group: 'Read' },
  lastHit: { key: ',', what: 'Found: the mark before', group: 'Read' },
  help: { key: '?', what: 'All keys', group: 'Go' },
  dayBefore: { key: '[', what: 'Day line: the day before', group: 'Go' },
  dayAfter: { key: ']', what: 'Day line: the day after', group: 'Go' },
  ruleOf: { key: 'R', what: 'Make a rule of this letter', group: 'Mark' },
  letThrough: { key: 't', what: 'Let this sender through: a key person', group: 'Mark' },
} as const

export type Action = keyof typeof acts | DecisionAction | GoAction
interface Act {
  key: string
  what: string
  group: string
}
/** Every action that has a key, in the order in which help lists them. */
export const actions: Record<Action, Act> = {
  ...(Object.fromEntries(
    decisions.map((d) => [actionOf(d.kind), { key: d.key, what: d.name, group: d.deck ? 'Decide' : 'Mark' }]),
  ) as Record<DecisionAction, Act>),
  ...acts,
  ...(Object.fromEntries(
    goings.map(([go, name]) => {
      const { key = '', what, word } = viewOf(name)
      return [go, { key, what: what ?? word, group: 'Views' }]
    }),
  ) as Record<GoAction, Act>),
}

/** Keys a person has changed; '' turns one off. */
export const changedKeys = kept<Partial<Record<Action, string>>>('keys', {})
/** Single keys can be turned off as a whole (WCAG 2.1.4). */
export const singleKeys = kept('single-keys', true)

export const keyOf = (a: Action) => changedKeys.get()[a] ?? actions[a].key
export const useKeyOf = () => {
  const changed = changedKeys.use()
  const on = singleKeys.use()
  return (a: Action) => (on ? (changed[a] ?? actions[a].key) : '')
}
export const keyName = (key: string) =>
  key === ' ' ? 'Space' : /^[A-Z]$/.test(key) ? `Shift ${key}` : key.toUpperCase()

type Handler = (e: KeyboardEvent) => void
export type Handlers = Partial<Record<Action, Handler>>

/** Keys that belong to no action: those of routines. They come after all others. */
const extra: { current: Record<string, () => void> }[] = []

/** Lets keys be pressed that a person has given to something of their own. */
export function useExtraKeys(handlers: Record<string, () => void>) {
  const latest = useRef(handlers)
  useLayoutEffect(() => {
    latest.current = handlers
  })
  useLayoutEffect(() => {
    extra.push(latest)
    return () => void extra.splice(extra.indexOf(latest), 1)
  }, [])
}

/** Whether an action has a key already, or begins with it. */
export const isBound = (key: string) => (Object.keys(actions) as Action[]).some((a) => keyOf(a).split(' ')[0] === key)

type Layer = { current: Handlers; over: boolean }
const layers: Layer[] = []
let prefix = ''
let prefixTimer: ReturnType<typeof setTimeout> | undefined

/** Whether a key belongs to a field or a control rather than to the page. */
function taken(e: KeyboardEvent): boolean {
  const at = e.target === document.body ? document.activeElement : e.target instanceof Element ? e.target : null
  if (!at) return false
  // A box to be ticked takes its blank only: nothing is typed into it.
  if (at.closest('input:not([type=checkbox]), textarea, select, [contenteditable=true], [data-own-keys]')) return true
  if (document.querySelector('[role=dialog], [role=menu]')) return true
  return (e.key === ' ' || e.key === 'Enter') && at.closest('button, a, [role=button], summary, input') !== null
}

const arrows: Record<string, Action> = { ArrowDown: 'next', ArrowUp: 'previous' }

export function handleKey(e: KeyboardEvent) {
  if (e.defaultPrevented) return
  // A key typed after the focus was lost goes where it belongs: into the text.
  if (focusIsLost() && !document.querySelector('[role=dialog]')) giveFocus()
  if (taken(e)) return
  if ((e.ctrlKey || e.metaKey) && !e.altKey && e.key.toLowerCase() === 'z') return run(e.shiftKey ? 'redo' : 'undo', e)
  if (e.ctrlKey || e.metaKey || e.altKey) return
  if (isWriting()) return
  const arrow = arrows[e.key]
  if (arrow) return run(arrow, e)
  if (!singleKeys.get()) return
  // A capital is a key of its own only where one is bound to it; the caps lock makes none.
  const capital = e.shiftKey ? e.key.toUpperCase() : e.key.toLowerCase()
  const pressed = e.key.length > 1 ? e.key : capital
  const bound = (Object.keys(actions) as Action[]).some((a) => keyOf(a) === pressed)
  const typed = prefix + (e.key.length === 1 && !bound ? e.key.toLowerCase() : pressed)
  clearTimeout(prefixTimer)
  prefix = ''
  for (const a of Object.keys(actions) as Action[]) {
    const key = keyOf(a)
    if (key === typed) return run(a, e)
    if (key.startsWith(typed + ' ')) {
      prefix = typed + ' '
      prefixTimer = setTimeout(() => (prefix = ''), 2000)
      e.preventDefault()
      return
    }
  }
  const own = extra.findLast((x) => x.current[typed])?.current[typed]
  if (!own || e.repeat) return
  e.preventDefault()
  own()
}

function run(a: Action, e: KeyboardEvent) {
  const newest = layers.toReversed()
  const fn = [...newest.filter((l) => l.over), ...newest.filter((l) => !l.over)].find((l) => l.current[a])?.current[a]
  if (!fn) return
  e.preventDefault()
  fn(e)
}

/** What can be done on the page now. */
export const possible = () =>
  (Object.keys(actions) as Action[]).filter((a) => layers.some((l) => l.current[a] !== undefined))

/** Does it, as its key would. */
export const act = (a: Action) => run(a, new KeyboardEvent('keydown'))

/** Lets actions be pressed while the component is shown; the newest wins, but
 * what lies beneath the views comes last, and what lies over a list in its stead first. */
export function useKeys(handlers: Handlers, lies: 'among' | 'beneath' | 'over' = 'among') {
  const latest = useRef<Layer>({ current: handlers, over: lies === 'over' })
  // Before it is painted: a key that follows what was seen does what was seen.
  useLayoutEffect(() => {
    latest.current.current = handlers
  })
  useLayoutEffect(() => {
    const layer = latest.current
    if (lies === 'beneath') layers.unshift(layer)
    else layers.push(layer)
    return () => void layers.splice(layers.indexOf(layer), 1)
  }, [lies])
}
