import { Choice } from '../kit/Choice'
import { grouping, groupings, type By, type GroupedPlace } from '../state/grouping'

/** Chooses what a list is grouped by. */
export function GroupChoice({ place }: { place: GroupedPlace }) {
  const by = grouping.use()[place] ?? ''
  return (
    <Choice
      label="Grouped"
      className="btn btn-small shrink-0 btn-tight text-[13px] !font-normal whitespace-nowrap"
      value={by}
      options={groupings}
      onChange={(to) => grouping.set({ ...grouping.get(), [place]: to as By })}
    />
  )
}
