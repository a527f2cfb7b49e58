import { watched } from './store'

/** A follow-up that is asked for in plain words, and who takes the line. */
export const capturing = watched<{ take: (line: string) => void } | undefined>(undefined)
