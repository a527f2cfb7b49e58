import { PackageCheck, ReceiptText, Truck } from 'lucide-react'
import { states, type Told } from './billWords'

/** What a letter tells of a payment or a parcel, as a line of a ledger above its text. */
export function Bill({ bill: b }: { bill: Told }) {
  const Icon = b.way === 'settled' ? PackageCheck : b.amount ? ReceiptText : Truck
  return (
    <dl
      aria-label="What it is about"
      className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-1 rounded-lg border border-line bg-shore/50 px-3 py-1.5"
    >
      <Icon className="size-4 shrink-0 text-ink-3" aria-hidden />
      {b.amount && (
        <div>
          <dt className="sr-only">Amount</dt>
          <dd className="font-mono text-[15px] font-semibold">{b.amount}</dd>
        </div>
      )}
      <div className="min-w-0 flex-1">
        <dt className="sr-only">For</dt>
        <dd className="truncate text-[14px] text-ink-2">{b.numbers.join(', ')}</dd>
      </div>
      <div>
        <dt className="sr-only">State</dt>
        <dd className="flex flex-wrap gap-1.5">
          {states(b).map(([words, look]) => (
            <span key={words} className={`chip !text-[13px] ${look}`}>
              {words}
            </span>
          ))}
        </dd>
      </div>
    </dl>
  )
}
