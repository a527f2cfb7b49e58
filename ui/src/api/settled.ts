import { useEffect, useState } from 'react'

/** A value as it was when it had last rested for so many ms. */
export function useSettledValue<T>(value: T, rest: number): T {
  const [settled, set] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => set(value), rest)
    return () => clearTimeout(timer)
  }, [value, rest])
  return settled
}
