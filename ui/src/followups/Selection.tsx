import type { Board } from '../api/client'
import { Choice } from '../kit/Choice'
import type { FollowUpFields } from '../state/commands'
import { priorities } from '../state/priorities'

/** What can be done with the follow-ups that are selected. */
export function Selection(props: {
  n: number
  board: Board | undefined
  onEdit: (body: FollowUpFields) => void
  onMove: () => void
  onDone: () => void
  onNone: () => void
}) {
  const { board } = props
  const names = (list: string[]) => list.map((n) => [n, n] as const)
  const choices: [string, (readonly [string, string])[], (v: string) => FollowUpFields][] = [
    ['Priority', priorities.map((p) => [p, p] as const), (v) => ({ priority: v as (typeof priorities)[number] })],
    [
      'Stage',
      [['0', 'none'] as const, ...(board?.stages ?? []).map((s) => [String(s.id), s.name] as const)],
      (v) => ({ stage: Number(v) }),
    ],
    ['Project', [['', 'none'] as const, ...names(board?.names.projects ?? [])], (v) => ({ project: v })],
    ['Context', [['', 'none'] as const, ...names(board?.names.contexts ?? [])], (v) => ({ context: v })],
    ['Who does it', [['', 'you'] as const, ...names(board?.names.people ?? [])], (v) => ({ assignee: v })],
    [
      'Status',
      [['open', 'open'] as const, ['under-way', 'under way'] as const, ['waiting', 'waiting'] as const],
      (v) => ({ status: v as 'open' }),
    ],
  ]
  return (
    <span className="flex flex-wrap items-center gap-1.5" role="status">
      <b>{props.n} selected</b>
      <button className="btn btn-small" onClick={props.onDone}>
        Complete
      </button>
      <button className="btn btn-small" onClick={props.onMove}>
        Due…
      </button>
      {choices.map(([label, list, body]) => (
        <Choice
          key={label}
          label={label}
          shown={`${label}…`}
          className="btn btn-small"
          options={list}
          onChange={(v) => props.onEdit(body(v))}
        />
      ))}
      <button className="btn btn-small" onClick={props.onNone}>
        None <span className="key">Esc</span>
      </button>
    </span>
  )
}
