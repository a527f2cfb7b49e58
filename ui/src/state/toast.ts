import type { toast as Toast } from 'sonner'
import { watched } from './store'

// What says something for a moment is not part of the first page: it is fetched once
// that is painted, and again and again where it can't be. A part that can't be fetched
// must not take the page with it.
const wanted = watched(false)
let shown: (toast: typeof Toast) => void = () => undefined
const there = new Promise<typeof Toast>((resolve) => (shown = resolve))

export const useToastsWanted = wanted.use
/** Called once what is said can be shown. */
export const toastsShown = (toast: typeof Toast) => shown(toast)

/** Fetches what shows them, if it is not there yet; tries again every other second. */
export function fetchToasts(fetch: () => Promise<unknown>) {
  fetch().then(
    () => wanted.set(true),
    () => setTimeout(() => fetchToasts(fetch), 2000),
  )
}

/** Says it once the page has painted what it is about: how high it is is measured, and
 * would have a page that has just changed be laid out twice. */
const say = (fn: (toast: typeof Toast) => void) =>
  void there.then((toast) => requestIdleCallback(() => fn(toast), { timeout: 250 }))

export const toast = Object.assign((...args: Parameters<typeof Toast>) => say((t) => t(...args)), {
  error: (...args: Parameters<(typeof Toast)['error']>) => say((t) => t.error(...args)),
  dismiss: (...args: Parameters<(typeof Toast)['dismiss']>) => say((t) => t.dismiss(...args)),
})
