import { watched } from './store'

/** What is said to whoever listens to the page rather than looks at it. */
export const spoken = watched('')

let over: ReturnType<typeof setTimeout> | undefined

/** Says something once; it is not left standing to be met again. */
export function say(text: string) {
  clearTimeout(over)
  spoken.set(text)
  over = setTimeout(() => spoken.set(''), 4000)
}
