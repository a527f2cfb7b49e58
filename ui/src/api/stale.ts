import { onStale, type Reading } from './client'
import { client } from './queries'

/** How long is waited before lists are read again, in ms: soon, or while somebody
 * decides on letter after letter when they pause, but not for longer than latest. */
const [soon, pause, latest] = [120, 400, 1500]
/** And in a page that nobody works in now, beside one where somebody does. */
const [pauseBeside, latestBeside] = [1000, 4000]

/** What is read whole, up to ten thousand rows, waits longer for the pause: it is right
 * already for who decides in it, and reading it would keep them. */
const latestWhole = 10_000
const whole: readonly Reading[] = ['ahead', 'waiting', 'follow-ups']

/** Gathers what is to be read again, so that a hundred changes at once are one. */
function gathering(longest: (beside: boolean) => number) {
  const waiting = new Set<Reading>()
  const after: ((since: number) => void)[] = []
  let timer: ReturnType<typeof setTimeout> | undefined
  let since = 0
  let firm = false // somebody waits to see it
  const calm = () => {
    const beside = !document.hasFocus()
    return Math.min(beside ? pauseBeside : pause, Math.max(0, since + longest(beside) - Date.now()))
  }
  return (names: Reading[], calmly: boolean, then?: (since: number) => void) => {
    if (names.length === 0) return
    if (then) after.push(then)
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
        const read = now.map((n) => client.invalidateQueries({ queryKey: [n] }))
        const [acts, began] = [after.splice(0), Date.now()]
        if (acts.length > 0) void Promise.all(read).then(() => acts.forEach((act) => act(began)))
      },
      calmly ? calm() : soon,
    )
  }
}
const refreshes = gathering((beside) => (beside ? latestBeside : latest))
const refreshesWhole = gathering(() => latestWhole)

/** Refreshes a moment later; calmly where the page shows the change already. */
export function refresh(names: Reading[], calmly = false) {
  refreshes(
    names.filter((n) => !whole.includes(n)),
    calmly,
  )
  refreshesWhole(
    names.filter((n) => whole.includes(n)),
    calmly,
  )
}

/** Reads lists that are read whole again at the pause, and then does what would have kept
 * who decides in them; it is told since when what was read is right by itself. */
export function atThePause(names: Reading[], then: (since: number) => void) {
  refreshesWhole(names, true, then)
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
