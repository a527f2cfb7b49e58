import type { Body } from '../api/client'

export type Told = NonNullable<Body['bill']>

const looks = {
  ahead: '!bg-lamp-2 !text-lamp',
  late: '!bg-buoy-2 !text-buoy',
  past: '',
  settled: '!bg-kelp-2 !text-kelp',
} as const

const payments = { ahead: 'due', late: 'was due', past: 'was due', settled: 'paid' } as const
const ways = { ahead: 'comes', late: 'late: was to come', past: 'was to come', settled: 'has come' } as const

/** How it stands, in words and by its look. */
export function states(b: Told): [words: string, look: string][] {
  const out: [string, string][] = []
  if (b.payment) out.push([`${payments[b.payment]} ${b.due ?? ''}`.trim(), looks[b.payment]])
  if (b.way) out.push([b.way === 'settled' ? ways.settled : `${ways[b.way]} ${b.comes ?? ''}`, looks[b.way]])
  return out
}
