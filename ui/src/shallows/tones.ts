import type { Shoal } from '../api/client'

/** The colour of each kind, beside its name. */
export const tones: Record<Shoal['kind'], string> = {
  receipts: 'bg-lamp',
  notices: 'bg-ink-3',
  reading: 'bg-tide',
  meetings: 'bg-heather',
  copies: 'bg-deep',
}
