import { onStale, type Reading } from './client'
import { client } from './queries'

const waiting = new Set<Reading>()
let timer: ReturnType<typeof setTimeout> | undefined

/** Refreshes a moment later, so that a hundred changes at once are one. */
export function refresh(names: Reading[]) {
  for (const n of names) waiting.add(n)
  timer ??= setTimeout(() => {
    timer = undefined
    const now = [...waiting]
    waiting.clear()
    for (const n of now) void client.invalidateQueries({ queryKey: [n] })
  }, 120)
}

/** Reads again what a command has made stale, as its answer says, but for what the
 * page has brought up to date itself. */
export function makeStale(names: string | null, but: Reading[] = []) {
  if (names === '*') void client.invalidateQueries()
  else if (names) refresh((names.split(',') as Reading[]).filter((n) => !but.includes(n)))
}
onStale(makeStale)
