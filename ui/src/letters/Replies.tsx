import { useQuery } from '@tanstack/react-query'
import { CalendarCheck } from 'lucide-react'
import { api, take } from '../api/client'
import type { Listing } from '../state/listing'

/** Answers to one's own invitations in the inbox: they are counted on their
 * appointments already, and are cleared at once. */
export function Replies({ listing }: { listing: Listing }) {
  const { data } = useQuery({
    queryKey: ['replies'],
    queryFn: () => take(api.GET('/api/replies')),
    staleTime: 30_000,
  })
  if (!data || data.on.length === 0) return null
  const said = [
    data.accepted && `${data.accepted} accepted`,
    data.tentative && `${data.tentative} perhaps`,
    data.declined && `${data.declined} declined`,
  ].filter(Boolean)
  return (
    <p
      className="mx-2 mb-1 flex items-center gap-2 rounded-[12px] bg-heather-2 px-3 py-1.5 text-[13px] text-heather shrink-0 low:mx-0 low:mb-0 low:gap-2 low:py-0 low:pr-0 low:whitespace-nowrap"
      role="status"
    >
      <CalendarCheck className="size-4 shrink-0 low:hidden" aria-hidden />
      <span className="flex-1">
        <span className="low:sr-only">Answers to your invitations: </span>
        {said.join(', ')}
      </span>
      <button className="btn btn-small text-ink" onClick={() => listing.decide({ kind: 'done' }, data.on)}>
        <span>
          Clear <span className="max-md:sr-only">{data.on.length}</span>
        </span>
      </button>
    </p>
  )
}
