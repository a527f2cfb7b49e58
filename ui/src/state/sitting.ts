import type { Heap } from '../api/client'
import { own } from './mine'
import { kept, watched } from './store'

/** A sitting is about to be begun, of a heap if one was meant. */
export const sittingDown = watched<{ heap?: Heap } | undefined>(undefined)

/** How many minutes the last one was to take; 0 for until zero. */
export const usualMinutes = kept('sitting-minutes', 15)

/** Whether the ring is shown, and since when the letter is before one that it is of. */
export const ringOn = kept('sitting-ring', true)
export const ringOf = own<{ id: number; from: number; stopped?: number } | undefined>('sitting-ring-of', undefined)
