import { Flag, Star } from 'lucide-react'
import type { FollowUp } from '../api/client'

const filled = { urgent: 3, high: 3, normal: 2, low: 1 } as const
const colour = { urgent: 'bg-buoy', high: 'bg-lamp', normal: 'bg-ink-3', low: 'bg-ink-3' } as const

/** Three stacked bars, filled from the bottom; urgent ones are broader. */
export function Priority({ of }: { of: string }) {
  const p = (of in filled ? of : 'normal') as FollowUp['priority'] & keyof typeof filled
  return (
    <span
      role="img"
      aria-label={`priority ${p}`}
      title={`Priority: ${p}`}
      className="inline-flex flex-col gap-[2px] pt-1"
    >
      {[2, 1, 0].map((i) => (
        <span
          key={i}
          className={`h-[3px] rounded-full ${p === 'urgent' ? 'w-4' : 'w-3'} ${i < filled[p] ? colour[p] : 'bg-line'}`}
        />
      ))}
    </span>
  )
}

/** The account at which a letter arrived: a shape and a colour for each. */
const shapes = ['●', '▲', '■', '◆', '✚'] as const
const shapeColour = ['text-tide', 'text-heather', 'text-lamp', 'text-kelp', 'text-buoy'] as const
export function AccountMark({ index, label }: { index: number; label: string }) {
  const i = index % shapes.length
  return (
    <span
      role="img"
      aria-label={`account ${label}`}
      title={label}
      className={`text-[9px] leading-none ${shapeColour[i]}`}
    >
      {shapes[i]}
    </span>
  )
}

export const StarMark = () => <Star aria-label="starred" className="size-3.5 shrink-0 fill-tide text-tide" />
export const FlagMark = () => <Flag aria-label="flagged" className="size-3.5 shrink-0 fill-lamp text-lamp" />
