import { useCallback, useLayoutEffect, useRef } from 'react'

/** A function that stays the same and does what the latest one given does, so that
 * what it is handed to is not drawn anew for its sake. */
export function useLatest<A extends unknown[]>(fn: (...args: A) => void): (...args: A) => void {
  const latest = useRef(fn)
  useLayoutEffect(() => {
    latest.current = fn
  })
  return useCallback((...args: A) => latest.current(...args), [])
}
