import { decisions, places } from '../api/tables'

/** A decision, as the core's table has it. */
export type Decision = (typeof decisions)[number]
export type DecisionKind = Decision['kind']
type Deck = Extract<Decision, { deck: true }>

type Camel<K extends string> = K extends 'inbox'
  ? 'fetch'
  : K extends `${infer A}-${infer B}`
    ? `${A}${Capitalize<B>}`
    : K

/** The action that makes a decision: what its key is bound to. */
export type DecisionAction = Camel<DecisionKind>
export type DeckAction = Camel<Deck['kind']>

export const actionOf = <K extends DecisionKind>(kind: K) =>
  (kind === 'inbox' ? 'fetch' : kind.replace(/-(.)/, (_, c: string) => c.toUpperCase())) as Camel<K>

/** The decisions of the deck, in their order. */
export const deck = decisions.filter((d) => d.deck) as Deck[]

/** What bringing something back from a place to the inbox is called; undefined in
 * the inbox itself. */
export const backFrom = (place: string | undefined) => places.find((p) => p.place === place)?.back || undefined
export const backHint = decisions.find((d) => d.kind === 'inbox')?.hint ?? ''
