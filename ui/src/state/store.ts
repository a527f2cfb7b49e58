import { useSyncExternalStore } from 'react'

/** A value that components can watch; the smallest store that does. */
export function watched<T>(initial: T) {
  let value = initial
  const listeners = new Set<() => void>()
  const subscribe = (fn: () => void) => {
    listeners.add(fn)
    return () => listeners.delete(fn)
  }
  return {
    get: () => value,
    set: (next: T | ((was: T) => T)) => {
      const now = typeof next === 'function' ? (next as (was: T) => T)(value) : next
      if (now === value) return
      value = now
      for (const fn of listeners) fn()
    },
    /** Calls with every value from now on. */
    watch: (fn: (value: T) => void) => subscribe(() => fn(value)),
    use: () => useSyncExternalStore(subscribe, () => value),
    /** What a component shows of the value; it is drawn anew only when that changes. */
    useOf: <S>(select: (value: T) => S) => useSyncExternalStore(subscribe, () => select(value)),
  }
}

/** A watched value that outlives the page, the same for all who use this browser.
 * What is somebody's own is kept by `own`. */
export function kept<T>(name: string, initial: T, key = () => 'ebbe.' + name) {
  const read = () => {
    try {
      const text = localStorage.getItem(key())
      if (text !== null) return JSON.parse(text) as T
    } catch {
      // A browser that keeps nothing works all the same.
    }
    return undefined
  }
  const store = watched(read() ?? initial)
  return {
    ...store,
    /** Takes over what another page has kept. */
    reload: () => store.set((was) => read() ?? was),
    /** Begins with what stands under another key. */
    begin: () => store.set(read() ?? initial),
    set: (next: T | ((was: T) => T)) => {
      store.set(next)
      try {
        localStorage.setItem(key(), JSON.stringify(store.get()))
      } catch {
        // as above
      }
    },
  }
}
