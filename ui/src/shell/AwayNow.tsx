import { Link } from '@tanstack/react-router'
import { Luggage } from 'lucide-react'
import { useAccounts } from '../api/queries'
import { useReadAgain } from '../state/readAgain'

/** That letters are answered by a note now, for it is easily forgotten. */
export function AwayNow() {
  const { data: accounts = [] } = useAccounts()
  const set = accounts.filter((a) => a.away.set)
  const next = set
    .map((a) => a.away.next ?? '')
    .filter(Boolean)
    .sort()[0]
  useReadAgain(next, ['accounts'])
  const away = set.filter((a) => a.away.on)
  if (away.length === 0) return null
  const words = away.map((a) => `${a.label || a.address} is away, back ${a.away.backWords}`).join('; ')
  return (
    <Link
      to="/accounts"
      aria-label={`Letters are answered by your note: ${words}`}
      title={`Letters are answered by your note: ${words}`}
      className="inline-flex min-h-8 shrink-0 items-center rounded-lg bg-lamp-2 px-2 text-lamp"
    >
      <Luggage className="size-4" aria-hidden />
    </Link>
  )
}
