import { useEffect, useState } from 'react'

/** A value as it was when it had last rested for so many ms: what is dear is not asked for at every key.
 * Until then it is the first. */
export function useSettled<T>(value: T, rest = 300, first = value): T {
  const [settled, settle] = useState(first)
  useEffect(() => {
    const timer = setTimeout(() => settle(value), rest)
    return () => clearTimeout(timer)
  }, [value, rest])
  return settled
}
