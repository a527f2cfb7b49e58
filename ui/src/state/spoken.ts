import { watched } from './store'

/** What is said to whoever listens to the page rather than looks at it. */
export const spoken = watched('')
export const say = (text: string) => spoken.set(text)
