import { ChevronDown, ChevronRight } from 'lucide-react'
import type { ReactNode } from 'react'
import type { Shoal, ShoalLine } from '../api/client'
import { states } from '../letters/billWords'
import { stamp } from '../state/time'

/** A line of a kind, laid out for what it is: a ledger, the days of a source, minutes to
 * read, who has accepted. */
export function Line({
  shoal,
  line,
  open,
  onUnfold,
}: {
  shoal: Shoal
  line: ShoalLine
  open: boolean
  onUnfold: () => void
}) {
  const several = line.rows.length > 1
  const Fold = open ? ChevronDown : ChevronRight
  const unread = line.rows.some((r) => r.unread)
  return (
    <div className="grid grid-cols-[minmax(0,13rem)_minmax(0,1fr)_auto] items-center gap-x-4 px-3 py-[7px] max-md:grid-cols-[minmax(0,1fr)_auto]">
      <span className={`flex min-w-0 items-center gap-1 ${unread ? 'font-semibold' : ''}`}>
        <span className="truncate">{line.head}</span>
        {several && (
          <button
            aria-label={`${open ? 'Fold' : 'Unfold'} ${line.rows.length} of ${line.head}`}
            aria-expanded={open}
            className="inline-flex h-6 shrink-0 items-center rounded-md px-1 text-[13px] font-normal text-ink-2 hover:bg-tide-3"
            onClick={(e) => {
              e.stopPropagation()
              onUnfold()
            }}
          >
            {line.rows.length}
            <Fold className="size-4" aria-hidden />
          </button>
        )}
      </span>
      <span className="truncate text-ink-2 max-md:col-start-1 max-md:row-start-2 max-md:text-[13px]">{line.says}</span>
      <span className="flex items-center justify-end gap-3 text-[13px] text-ink-2 max-md:row-span-2">
        <End shoal={shoal} line={line} />
      </span>
    </div>
  )
}

/** What stands at the end of a line. */
function End({ shoal, line }: { shoal: Shoal; line: ShoalLine }): ReactNode {
  const { bill, dots } = line
  switch (shoal.kind) {
    case 'receipts':
      return (
        <>
          {bill?.amount && <span className="font-mono text-[14.5px] font-semibold text-ink">{bill.amount}</span>}
          <span className="flex min-w-32 justify-end max-md:min-w-0">
            {bill ? (
              states(bill).map(([words, look]) => (
                <span key={words} className={`chip !text-[12.5px] ${look}`}>
                  {words}
                </span>
              ))
            ) : (
              <span className="text-ink-3">{line.why}</span>
            )}
          </span>
        </>
      )
    case 'notices':
      return (
        <>
          <span aria-hidden className="relative hidden h-3 w-44 border-b border-line @min-[44rem]:block">
            {(dots ?? []).map((at, i) => (
              <i
                key={i}
                className="absolute bottom-[-4px] size-[7px] -translate-x-1/2 rounded-full bg-ink-2"
                style={{ left: `${at / 10}%` }}
              />
            ))}
          </span>
          <span className="w-32 text-right max-md:w-auto">{line.pace ?? stamp(line.rows[0]?.at ?? '')}</span>
        </>
      )
    case 'reading':
      return (
        <>
          <span className="hidden text-ink-3 @min-[44rem]:inline">{line.why}</span>
          <span className="min-w-14 text-right tabular-nums">{line.minutes} min</span>
        </>
      )
    case 'meetings':
      return <span>{line.pace ?? line.why}</span>
    case 'copies':
      return <span className="text-ink-3">{line.why}</span>
  }
}
