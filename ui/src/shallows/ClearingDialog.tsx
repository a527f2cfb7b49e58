import { MailX, Sparkle } from 'lucide-react'
import { useClearing, useFirstSorted } from '../api/queries'
import { Dialog } from '../kit/Dialog'
import { carryOut, told } from '../state/commands'
import { kinds, refuse, settledWord, sortTo } from '../state/sorting'
import { ListFoot, Reading } from './ListParts'
import { SenderList } from './SenderList'

/** All lists and bulk senders about which nothing was settled, to be left, turned away, put to
 * reading or kept; what was settled goes, so that one goes on where one stopped. */
export function ClearingDialog({ onClose }: { onClose: () => void }) {
  const { data, isPending, isError, error, refetch } = useClearing()
  const senders = data?.senders ?? []
  type Sender = (typeof senders)[number]
  const leavable = (s: Sender) => s.leave && s.leave.by !== 'page'
  const acts = [
    {
      key: '0',
      word: 'Unsubscribe',
      can: (those: Sender[]) => those.some(leavable),
      act: (those: Sender[]) => {
        for (const s of those.filter(leavable))
          void carryOut({ path: 'unsubscribe', id: s.letter, body: {} }).then(told)
      },
    },
    { key: '7', word: 'Turn away', act: (those: Sender[]) => refuse(newest(those), 'away', 'source') },
    { key: '4', word: 'To reading', act: (those: Sender[]) => sortTo(newest(those), 'reading', 'source') },
    { key: '1', word: 'Keep', act: (those: Sender[]) => refuse(newest(those), 'wanted', 'source') },
  ]
  return (
    <Dialog
      title="Clearing session"
      hint={data ? `${senders.length} that send and are not settled, ${data.settled} settled` : ''}
      icon={<MailX className="size-5 text-tide" aria-hidden />}
      wide
      onClose={onClose}
    >
      <Reading
        pending={isPending}
        what="Counting who sends…"
        error={isError ? error.message : ''}
        again={() => void refetch()}
      />
      {data && senders.length === 0 && (
        <p className="py-6 text-ink-2">Nothing is left to clear: every list that sends is settled.</p>
      )}
      <SenderList
        label="Lists and bulk senders"
        senders={senders}
        acts={acts}
        below={(s) => (
          <>
            {s.of}
            {s.leave ? (s.leave.by === 'page' ? ' · left on its page' : '') : ' · says not how it is left'}
          </>
        )}
        beside={(s) => (
          <>
            <span className="w-24 text-right text-[13px] tabular-nums max-md:w-16">{s.monthly} a month</span>
            <span
              className="flex w-28 items-center justify-end gap-2 text-[13px] tabular-nums max-md:w-16"
              title="how many you opened"
            >
              <span className="h-1.5 flex-1 rounded-full bg-shore-2 max-md:hidden" aria-hidden>
                <span className="block h-full rounded-full bg-kelp" style={{ width: `${s.opened}%` }} />
              </span>
              {s.opened} % read
            </span>
          </>
        )}
        foot={<ListFoot word="Stop here" onClose={onClose} />}
      />
    </Dialog>
  )
}

/** Who was sorted out this week for the first time, to be put right by one key. */
export function FirstSortedDialog({ onClose }: { onClose: () => void }) {
  const { data = [], isPending, isError, error, refetch } = useFirstSorted()
  return (
    <Dialog
      title="Sorted out for the first time"
      hint="this week"
      icon={<Sparkle className="size-5 text-tide" aria-hidden />}
      wide
      onClose={onClose}
    >
      <Reading
        pending={isPending}
        what="Counting who sends…"
        error={isError ? error.message : ''}
        again={() => void refetch()}
      />
      {!isPending && !isError && data.length === 0 && (
        <p className="py-6 text-ink-2">Nobody new was sorted out this week.</p>
      )}
      <SenderList
        label="New senders"
        senders={data}
        acts={kinds.map((k) => ({
          key: k.digit,
          word: k.word,
          act: (those: typeof data) => sortTo(newest(those), k.kind, 'address'),
        }))}
        below={(s) => s.says || s.of}
        beside={(s) => (
          <span className="text-[13px] text-ink-2">
            {settledWord(s.kind)}
            {s.n > 1 ? `, ${s.n}` : ''}
          </span>
        )}
        foot={<ListFoot word="Close" onClose={onClose} />}
      />
    </Dialog>
  )
}

const newest = (those: { conversation: number; letter: number }[]) =>
  those.map((s) => ({ id: s.conversation, last: s.letter }))
