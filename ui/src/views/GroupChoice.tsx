import { Group } from 'lucide-react'
import { Choice } from '../kit/Choice'
import { grouping, groupings, type By, type GroupedPlace } from '../state/grouping'

/** The Shallows lie by kind where nothing else was chosen. */
const ofTheShallows = groupings
  .filter(([b]) => b !== 'kind')
  .map(([b, word]) => [b, b === '' ? 'By kind' : word] as const)

/** Chooses what a list is grouped by. */
export function GroupChoice({ place }: { place: GroupedPlace }) {
  const by = grouping.use()[place] ?? ''
  const options = place === 'shallows' ? ofTheShallows : groupings
  return (
    <Choice
      label="Grouped"
      className="btn btn-small shrink-0 btn-tight text-[13px] !font-normal whitespace-nowrap"
      value={by}
      options={options}
      // Where lists stand as they came there is nothing to be said of it.
      shown={
        by === '' ? (
          <>
            <Group className="size-4" aria-hidden />
            <span className="sr-only">{options[0]?.[1]}</span>
          </>
        ) : undefined
      }
      onChange={(to) => grouping.set({ ...grouping.get(), [place]: to as By })}
    />
  )
}
