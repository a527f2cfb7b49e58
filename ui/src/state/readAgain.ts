import { useEffect } from 'react'
import { client } from '../api/queries'
import { serverNow } from './time'

/** Reads something again once a moment is there at which it changes by itself. */
export function useReadAgain(at: string | undefined, keys: string[]) {
  const all = keys.join()
  useEffect(() => {
    if (!at) return
    const wait = new Date(at).getTime() - serverNow().getTime() + 500
    if (wait > 2 ** 31 - 1) return // longer than a timer can wait; the page is read anew before
    const timer = setTimeout(
      () => {
        for (const key of all.split(',')) void client.invalidateQueries({ queryKey: [key] })
      },
      Math.max(wait, 1000),
    )
    return () => clearTimeout(timer)
  }, [at, all])
}
