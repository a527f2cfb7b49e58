import { DropdownMenu } from 'radix-ui'
import { ListFilter, X } from 'lucide-react'
import { useState } from 'react'
import { priorities } from '../state/priorities'
import { toast } from '../state/toast'
import type { Board, BoardFilter } from '../api/client'
import type { Layout } from '../api/queries'
import { carryOut, told } from '../state/commands'

const words: Record<string, string> = {
  overdue: 'overdue',
  today: 'today',
  week: 'this week',
  month: 'this month',
  further: 'further on',
  someday: 'someday',
  'under-way': 'under way',
}

type ListKey = 'due' | 'priority' | 'status' | 'person' | 'project' | 'context'

/** Narrows the board down; what is chosen stands as chips beside it. */
export function FollowFilter(props: {
  board: Board | undefined
  by: Layout
  filter: BoardFilter
  onFilter: (f: BoardFilter) => void
  onKept: (by: Layout | undefined, f: BoardFilter) => void
}) {
  const { board, filter } = props
  const [name, setName] = useState<string>()
  const choices: [ListKey, string, string[]][] = [
    ['due', 'Due', ['overdue', 'today', 'week', 'month', 'further', 'someday']],
    ['priority', 'Priority', [...priorities]],
    ['status', 'Status', ['open', 'under-way', 'waiting']],
    ['project', 'Project', board?.names.projects ?? []],
    ['context', 'Context', board?.names.contexts ?? []],
    ['person', 'Person', board?.names.people ?? []],
  ]
  const has = (key: ListKey, value: string) => ((filter[key] ?? []) as string[]).includes(value)
  const turn = (key: ListKey, value: string) => {
    const was = (filter[key] ?? []) as string[]
    const now = was.includes(value) ? was.filter((v) => v !== value) : [...was, value]
    props.onFilter({ ...filter, [key]: now.length > 0 ? now : undefined })
  }
  const chosen = choices.flatMap(([key]) => ((filter[key] ?? []) as string[]).map((v) => [key, v] as const))
  const any = chosen.length > 0 || filter.mine || filter.most || filter.stage?.length
  return (
    <>
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger className={`btn btn-small ${any ? '!bg-tide-2' : ''}`}>
          <ListFilter className="size-3.5" aria-hidden /> Filter
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            sideOffset={6}
            className="z-50 grid max-h-[70vh] grid-cols-2 gap-x-4 overflow-y-auto rounded-[14px] border border-line bg-paper p-3 shadow-float sm:grid-cols-3"
          >
            {choices
              .filter(([, , list]) => list.length > 0)
              .map(([key, label, list]) => (
                <DropdownMenu.Group key={key} className="min-w-32 pb-2">
                  <DropdownMenu.Label className="px-2 text-[12px] text-ink-3">{label}</DropdownMenu.Label>
                  {list.slice(0, 30).map((v) => (
                    <Choice key={v} on={has(key, v)} onTurn={() => turn(key, v)}>
                      {words[v] ?? v}
                    </Choice>
                  ))}
                </DropdownMenu.Group>
              ))}
            <DropdownMenu.Group className="min-w-32 pb-2">
              <DropdownMenu.Label className="px-2 text-[12px] text-ink-3">Also</DropdownMenu.Label>
              <Choice
                on={filter.mine ?? false}
                onTurn={() => props.onFilter({ ...filter, mine: filter.mine ? undefined : true })}
              >
                only what I do
              </Choice>
              {[15, 30].map((m) => (
                <Choice
                  key={m}
                  on={filter.most === m}
                  onTurn={() => props.onFilter({ ...filter, most: filter.most === m ? undefined : m })}
                >
                  {m} min at most
                </Choice>
              ))}
            </DropdownMenu.Group>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <input
        type="search"
        aria-label="Words in follow-ups"
        placeholder="words"
        className="field !w-28 !py-1"
        value={filter.text ?? ''}
        onChange={(e) => props.onFilter({ ...filter, text: e.target.value || undefined })}
      />
      {chosen.map(([key, v]) => (
        <button
          key={key + v}
          className="chip !text-[13px]"
          aria-label={`Without ${words[v] ?? v}`}
          onClick={() => turn(key, v)}
        >
          {words[v] ?? v} <X className="size-3" aria-hidden />
        </button>
      ))}
      {filter.mine && <span className="chip">only what I do</span>}
      {filter.most && <span className="chip">{filter.most} min at most</span>}
      {any && name === undefined && (
        <button className="btn btn-small" onClick={() => setName('')}>
          Keep as…
        </button>
      )}
      {name !== undefined && (
        <form
          className="flex gap-1"
          onSubmit={(e) => {
            e.preventDefault()
            void carryOut({ path: 'keep-follow-filter', body: { name, by: props.by, filter } }).then(
              (o) => o && (setName(undefined), toast(o.title)),
            )
          }}
        >
          <input
            autoFocus
            required
            aria-label="Name of the filter"
            className="field !w-36 !py-1"
            maxLength={60}
            value={name}
            onChange={(e) => setName(e.target.value)}
            onKeyDown={(e) => e.key === 'Escape' && setName(undefined)}
          />
          <button className="btn btn-small">Keep</button>
        </form>
      )}
      {board?.filters.map((k) => (
        <span key={k.id} className="inline-flex">
          <button className="btn btn-small !rounded-r-none" onClick={() => props.onKept(k.by, k.filter)}>
            {k.name}
          </button>
          <button
            className="btn btn-small !rounded-l-none !border-l-0 !px-1.5"
            aria-label={`Forget the filter ${k.name}`}
            onClick={() => void carryOut({ path: 'drop-follow-filter', id: k.id, body: {} }).then(told)}
          >
            <X className="size-3" aria-hidden />
          </button>
        </span>
      ))}
      {(any || filter.text) && (
        <button className="btn btn-small" onClick={() => props.onFilter({})}>
          All
        </button>
      )}
    </>
  )
}

function Choice(props: { on: boolean; onTurn: () => void; children: React.ReactNode }) {
  return (
    <DropdownMenu.CheckboxItem
      checked={props.on}
      onCheckedChange={props.onTurn}
      onSelect={(e) => e.preventDefault()}
      className="flex min-h-7 cursor-pointer items-center gap-2 rounded-lg px-2 outline-none data-[highlighted]:bg-tide-3"
    >
      <span className="w-3 text-tide" aria-hidden>
        {props.on ? '✓' : ''}
      </span>
      {props.children}
    </DropdownMenu.CheckboxItem>
  )
}
