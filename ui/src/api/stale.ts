import { onStale, type Reading } from './client'
import { client } from './queries'

const waiting = new Set<Reading>()
let timer: ReturnType<typeof setTimeout> | undefined
let since = 0
let firm = false // somebody waits to see it

/** How long is waited before lists are read again, in ms: soon, or while somebody
 * decides on letter after letter when they pause, but not for longer than latest. */
const [soon, pause, latest] = [120, 400, 1500]
/** And in a page that nobody works in now, beside one where somebody does. */
const [pauseBeside, latestBeside] = [1000, 4000]

/** Refreshes a moment later, so that a hundred changes at once are one; calmly where
 * the page shows the change already. */
export function refresh(names: Reading[], calmly = false) {
  if (names.length === 0) return
  if (waiting.size === 0) {
    since = Date.now()
    firm = false
  }
  for (const n of names) waiting.add(n)
  if (firm) return
  firm = !calmly
  clearTimeout(timer)
  timer = setTimeout(
    () => {
      const now = [...waiting]
      waiting.clear()
      for (const n of now) void client.invalidateQueries({ queryKey: [n] })
    },
    calmly ? calm() : soon,
  )
}

function calm(): number {
  const beside = !document.hasFocus()
  const [most, last] = beside ? [pauseBeside, latestBeside] : [pause, latest]
  return Math.min(most, Math.max(0, since + last - Date.now()))
}

/** Reads again what a command has made stale, as its answer says, but for what the
 * page has brought up to date itself. */
export function makeStale(names: string | null, but: Reading[] = [], calmly = false) {
  if (names === '*') void client.invalidateQueries()
  else if (names)
    refresh(
      (names.split(',') as Reading[]).filter((n) => !but.includes(n)),
      calmly,
    )
}
onStale(makeStale)
