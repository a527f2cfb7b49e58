import { api, errorText, take, type Rule, type RuleConditions, type RoutineStep } from '../api/client'
import { failed } from './failed'
import { own } from './mine'

/** A rule while it is made or changed. */
export interface RuleDraft {
  id?: number
  name: string
  conditions: RuleConditions
  steps: RoutineStep[]
  stop: boolean
  people: boolean
  until: string
  /** The proposal of which it is made. */
  proposal?: string
  /** It is off, and on once it is kept. */
  turnsOn?: boolean
  /** What is to be known of it before it is kept. */
  hint?: string
  /** How it stood when it was begun to change it. */
  was?: string
}

/** How a rule stands, to be compared. */
export const standing = (r: Rule) => JSON.stringify([r.name, r.conditions, r.steps, r.stop, r.people, r.expires])

/** A rule as it is changed. */
export const changing = (r: Rule): RuleDraft => ({
  id: r.id,
  name: r.name,
  conditions: r.conditions,
  steps: r.steps,
  stop: r.stop,
  people: r.people,
  until: r.expires ?? '',
  was: standing(r),
  ...(r.said ? { turnsOn: true, hint: r.said } : {}),
})

/** The rule that is being made; it stays while other views are looked at. */
export const ruleDraft = own<RuleDraft | undefined>('rule-draft', undefined)

export const emptyRule: RuleDraft = {
  name: '',
  conditions: { all: [{ of: 'from', is: '' }] },
  steps: [{ do: 'label', text: '' }],
  stop: false,
  people: false,
  until: '',
}

/** Begins a rule with the conditions that a letter speaks for. */
export async function ruleOfLetter(conversation: number, then: () => unknown) {
  try {
    const conditions = await take(api.GET('/api/rules/for/{id}', { params: { path: { id: conversation } } }))
    ruleDraft.set({ ...emptyRule, conditions })
    then()
  } catch (e) {
    failed(errorText(e, 'No rule could be begun with this letter.'))
  }
}

/** Begins a rule with what a search says. */
export async function ruleOfSearch(q: string, then: () => unknown) {
  try {
    const { conditions, left } = await take(api.GET('/api/rules/of-search', { params: { query: { q } } }))
    ruleDraft.set({
      ...emptyRule,
      conditions,
      ...(left.length > 0
        ? { hint: `A rule has no condition for what the search also asks: ${left.join(', ')}.` }
        : {}),
    })
    then()
  } catch (e) {
    failed(errorText(e, 'No rule could be begun with this search.'))
  }
}
