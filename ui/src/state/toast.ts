import type { toast as Toast } from 'sonner'
import { watched } from './store'

// What says something for a moment is not part of the first page: it is fetched soon
// after, or when there is something to say.
const wanted = watched(false)
let shown: (toast: typeof Toast) => void = () => undefined
const there = new Promise<typeof Toast>((resolve) => (shown = resolve))

export const useToastsWanted = wanted.use
export const wantToasts = () => wanted.set(true)
/** Called once what was said can be shown. */
export const toastsShown = (toast: typeof Toast) => shown(toast)

function say(fn: (toast: typeof Toast) => void) {
  wantToasts()
  void there.then(fn)
}

export const toast = Object.assign((...args: Parameters<typeof Toast>) => say((t) => t(...args)), {
  error: (...args: Parameters<(typeof Toast)['error']>) => say((t) => t.error(...args)),
  dismiss: (...args: Parameters<(typeof Toast)['dismiss']>) => say((t) => t.dismiss(...args)),
})
