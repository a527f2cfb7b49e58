import { useEffect, useState } from 'react'
import { useJunk, useList } from '../api/queries'
import { carryOut, told } from '../state/commands'
import { own } from '../state/mine'

/** The newest letter that was seen in Junk. */
const looked = own('junk-looked', 0)

/** What came into Junk since the last look, and whether what is like it is put there too. */
export function JunkLine() {
  const [since] = useState(() => looked.get())
  const { data } = useJunk(since)
  const { data: list } = useList({ name: 'junk' })
  const newest = Math.max(0, ...(list?.pages[0]?.rows ?? []).map((r) => r.last))
  useEffect(() => {
    if (newest > looked.get()) looked.set(newest)
  }, [newest])
  if (!data) return null
  const few = data.junk < data.fewest || data.fine < data.fewest
  return (
    <div className="mx-2 mb-1 rounded-[12px] bg-paper px-3 py-2 text-[13px]">
      {since > 0 && data.since > 0 && (
        <p className="pb-1 font-semibold" role="status">
          {data.since} came since you looked
        </p>
      )}
      <label className="flex cursor-pointer items-center gap-3">
        <input
          type="checkbox"
          className="size-4 accent-tide"
          checked={data.learn}
          onChange={(e) => void carryOut({ path: 'learn-junk', body: { learn: e.target.checked } }).then(told)}
        />
        <span className="min-w-0 flex-1">Put here by itself what is like what you put here</span>
      </label>
      {data.learn && (
        <p className="pl-7 text-ink-2">
          {few
            ? `Not before ${data.fewest} letters are in Junk and ${data.fewest} in the archive: ${data.junk} and ${data.fine} so far.`
            : `Learned from ${data.junk} letters here and ${data.fine} that are none; only where it is surer than 99 %.`}
        </p>
      )}
    </div>
  )
}
