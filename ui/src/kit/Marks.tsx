import { Flag, Star } from 'lucide-react'
import type { ReactNode } from 'react'
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

export const accountColours = ['tide', 'heather', 'kelp', 'lamp', 'buoy', 'deep'] as const
export const accountShapes = ['circle', 'square', 'hexagon', 'drop', 'cross', 'bar'] as const

const outlines: Record<string, ReactNode> = {
  circle: <circle cx="5" cy="5" r="4" />,
  square: <rect x="1.5" y="1.5" width="7" height="7" />,
  hexagon: <path d="M5 .5 9 2.8v4.4L5 9.5 1 7.2V2.8Z" />,
  drop: <path d="M5 .5C7 3.2 8.3 4.7 8.3 6.3A3.3 3.3 0 0 1 1.7 6.3C1.7 4.7 3 3.2 5 .5Z" />,
  cross: <path d="M3.6 1h2.8v2.6H9v2.8H6.4V9H3.6V6.4H1V3.6h2.6Z" />,
  bar: <rect x=".5" y="3.4" width="9" height="3.2" rx="1" />,
}

/** What the colours of marks are called. */
export const colourNames: Record<string, string> = {
  tide: 'teal',
  kelp: 'green',
  heather: 'violet',
  lamp: 'amber',
  buoy: 'red',
  deep: 'dark teal',
}

/** The account at which a letter arrived: a shape with a colour. */
export function AccountMark({
  account,
  large,
  hidden,
}: {
  account: { label: string; colour: string; shape: string }
  large?: boolean
  hidden?: boolean
}) {
  return (
    <svg
      role={hidden ? undefined : 'img'}
      aria-hidden={hidden}
      aria-label={hidden ? undefined : `account ${account.label}`}
      viewBox="0 0 10 10"
      className={large ? 'size-4 shrink-0' : 'size-[9px] shrink-0'}
      style={{ fill: `var(--${account.colour})` }}
    >
      {!hidden && <title>{account.label}</title>}
      {outlines[account.shape] ?? outlines['circle']}
    </svg>
  )
}

export const StarMark = () => <Star aria-label="starred" className="size-3.5 shrink-0 fill-tide text-tide" />
export const FlagMark = () => <Flag aria-label="flagged" className="size-3.5 shrink-0 fill-lamp text-lamp" />
