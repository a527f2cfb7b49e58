import { kept } from './store'

/** Whether the first minutes are wanted: until they are put away, and again from the keys. */
export const beginning = kept<'by-itself' | 'wanted' | 'away'>('beginning', 'by-itself')
