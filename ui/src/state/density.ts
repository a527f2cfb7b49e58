import { kept } from './store'

/** How much of a list is seen at once: roomy rows, or more and lower ones. */
export const density = kept<'roomy' | 'compact'>('density', 'roomy')

const mark = (to: string) => (document.documentElement.dataset['density'] = to)
mark(density.get())
density.watch(mark)

/** Heights of the rows of lists of letters, in CSS pixels. */
export const rowHeights = { roomy: 60, compact: 44 } as const
