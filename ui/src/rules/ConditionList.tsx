import { Plus, X } from 'lucide-react'
import type { RuleCondition, RuleConditions, Rules } from '../api/client'
import { Choice } from '../kit/Choice'

type Part = keyof RuleConditions
const parts: { part: Part; word: string; add: string }[] = [
  { part: 'all', word: 'It meets all of these', add: 'Condition' },
  { part: 'any', word: 'and at least one of these', add: 'One of several' },
  { part: 'none', word: 'and none of these', add: 'Exception' },
]

/** Which letters a rule takes: conditions that are met all, one of them, and none of them. */
export function ConditionList(props: {
  conditions: RuleConditions
  about: Rules
  onChange: (to: RuleConditions) => void
}) {
  const { conditions, about, onChange } = props
  const listOf = (part: Part) => conditions[part] ?? []
  const set = (part: Part, to: RuleCondition[]) => onChange({ ...conditions, [part]: to })
  return (
    <div className="grid gap-2">
      {parts.map(({ part, word }) =>
        listOf(part).length === 0 ? null : (
          <fieldset key={part} className="grid gap-1.5 rounded-lg bg-shore/60 p-2">
            <legend className="float-left w-full pb-0.5 text-[13px] font-semibold text-ink-2">{word}</legend>
            {listOf(part).map((c, i) => (
              <div key={i} className="flex flex-wrap items-center gap-2">
                <Choice
                  label={`${word}, ${i + 1}`}
                  className="btn w-48 justify-between max-md:w-full"
                  value={c.of}
                  options={about.fields.map((f) => [f.of as RuleCondition['of'], f.name] as const)}
                  onChange={(of) => set(part, listOf(part).with(i, { of, is: first(of, about) }))}
                />
                <Value
                  of={c}
                  about={about}
                  label={`Value of “${word}”, ${i + 1}`}
                  onChange={(is) => set(part, listOf(part).with(i, { ...c, is }))}
                />
                <button
                  type="button"
                  className="btn btn-small"
                  aria-label={`Without “${c.is || 'this condition'}”`}
                  onClick={() => set(part, listOf(part).toSpliced(i, 1))}
                >
                  <X className="size-3.5" aria-hidden />
                </button>
              </div>
            ))}
          </fieldset>
        ),
      )}
      <div className="flex flex-wrap gap-2">
        {parts.map(({ part, add }) => (
          <button
            key={part}
            type="button"
            className="btn btn-small"
            onClick={() => set(part, [...listOf(part), { of: part === 'all' ? 'from' : 'subject', is: '' }])}
          >
            <Plus className="size-3.5" aria-hidden /> {add}
          </button>
        ))}
      </div>
    </div>
  )
}

const first = (of: RuleCondition['of'], about: Rules) =>
  of === 'kind' ? (about.kinds[0] ?? '') : of === 'account' ? (Object.keys(about.accounts)[0] ?? '') : ''

function Value(props: { of: RuleCondition; about: Rules; label: string; onChange: (is: string) => void }) {
  const { of: c, about, label, onChange } = props
  const options =
    c.of === 'kind'
      ? about.kinds.map((k) => [k as string, k as string] as const)
      : c.of === 'account'
        ? Object.entries(about.accounts)
        : undefined
  if (options)
    return <Choice label={label} className="btn" value={c.is} options={options} onChange={(to) => onChange(to)} />
  return (
    <input
      className="field min-w-0 flex-1 basis-48"
      aria-label={label}
      placeholder={about.fields.find((f) => f.of === c.of)?.example}
      value={c.is}
      onChange={(e) => onChange(e.target.value)}
    />
  )
}
