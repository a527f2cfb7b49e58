import { Waves } from 'lucide-react'
import { useSortedIn } from '../api/queries'
import { Dialog } from '../kit/Dialog'
import { settledWord, sortTo } from '../state/sorting'
import { ListFoot, Reading } from './ListParts'
import { SenderList } from './SenderList'

/** What sorting has put away at one time and lies there still, each to be put right alone or for
 * its sender. */
export function SortedDialog({ entry, onClose }: { entry: number; onClose: () => void }) {
  const { data, isPending, isError, error, refetch } = useSortedIn(entry)
  const letters = (data?.letters ?? []).map((l) => ({ ...l, key: String(l.conversation), name: l.from }))
  type Sorted = (typeof letters)[number]
  const on = (those: Sorted[]) => those.map((l) => ({ id: l.conversation, last: l.last }))
  return (
    <Dialog
      title="Sorted out"
      hint={data?.more ? `${data.more} more are not listed` : ''}
      icon={<Waves className="size-5 text-tide" aria-hidden />}
      wide
      onClose={onClose}
    >
      <Reading
        pending={isPending}
        what="Reading what was sorted…"
        error={isError ? error.message : ''}
        again={() => void refetch()}
      />
      {data && letters.length === 0 && <p className="py-6 text-ink-2">Nothing of it lies where it was put.</p>}
      <SenderList
        label="What was sorted out"
        senders={letters}
        acts={[
          { key: '1', word: 'To the inbox', act: (those: Sorted[]) => sortTo(on(those), 'person') },
          {
            key: 's',
            word: 'All from there',
            act: (those: Sorted[]) => sortTo(on(those), 'person', 'source'),
          },
        ]}
        below={(l) => `${l.subject}${l.why ? ` · ${l.why}` : ''}`}
        beside={(l) => <span className="text-[13px] text-ink-2">{settledWord(l.kind)}</span>}
        foot={<ListFoot word="Close" onClose={onClose} />}
      />
    </Dialog>
  )
}
