import { useQuery } from '@tanstack/react-query'
import { CalendarCheck } from 'lucide-react'
import { api, take } from '../api/client'
import type { Desk } from '../state/desk'

/** Answers to one's own invitations in the inbox: they are counted on their
 * appointments already, and are cleared at once. */
export function Replies({ desk }: { desk: Desk }) {
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
      className="mx-2 mb-1 flex items-center gap-2 rounded-[12px] bg-heather-2 px-3 py-1.5 text-[13px] text-heather"
      role="status"
    >
      <CalendarCheck className="size-4 shrink-0" aria-hidden />
      <span className="flex-1">Answers to your invitations: {said.join(', ')}</span>
      <button className="btn !min-h-7 text-ink" onClick={() => desk.decide({ kind: 'done' }, data.on)}>
        Clear {data.on.length}
      </button>
    </p>
  )
}
