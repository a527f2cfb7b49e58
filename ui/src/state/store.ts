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
    use: () => useSyncExternalStore(subscribe, () => value),
  }
}

/** A watched value that outlives the page. */
export function kept<T>(name: string, initial: T) {
  const key = 'ebbe.' + name
  let start = initial
  try {
    const text = localStorage.getItem(key)
    if (text !== null) start = JSON.parse(text) as T
  } catch {
    // A browser that keeps nothing works all the same.
  }
  const store = watched(start)
  return {
    ...store,
    set: (next: T | ((was: T) => T)) => {
      store.set(next)
      try {
        localStorage.setItem(key, JSON.stringify(store.get()))
      } catch {
        // as above
      }
    },
  }
}
