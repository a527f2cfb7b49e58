import type { Target } from './listing'

/** For conversations that this page has just decided on: to which version the
 * ones before it have led. What the page does next with what it still shows of
 * before follows on its own decision, and is not taken for a second opinion. */
const led = new Map<number, { until: number; to: Map<number, number> }>()
/** How long rows of before may still be in sight. */
const whileStale = 10_000

/** Notes how conversations stand after a command of this page, and how they were
 * seen before. */
export function follow(now: Target[], was: Target[]) {
  for (const [id, { until }] of led) if (until < Date.now()) led.delete(id)
  for (const { id, version } of now) {
    if (version === undefined) continue
    const to = led.get(id)?.to ?? new Map<number, number>()
    const before = was.find((t) => t.id === id)?.version
    for (const old of [before, ...to.keys(), ...to.values()]) if (old !== undefined) to.set(old, version)
    to.delete(version)
    led.set(id, { until: Date.now() + whileStale, to })
  }
}

/** What is named in a command as the server takes it: without where it stood, and
 * at the version that this page knows of. */
export function seen(named: unknown): unknown {
  if (typeof named !== 'object' || named === null) return named
  const t = { ...(named as Target & { kind?: string }), place: undefined }
  if (t.version === undefined || (t.kind !== undefined && t.kind !== 'return')) return t
  return { ...t, version: led.get(t.id)?.to.get(t.version) ?? t.version }
}
