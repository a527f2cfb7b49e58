import { newId } from '../api/client'
import { kept, watched } from './store'

/** What this page has and the server does not know yet: each in an entry of its
 * own in the browser's storage, under the person and the inbox, with the page that
 * made it. So no page overwrites what another keeps, and nothing of one person is
 * ever sent as another. */
interface Entry<T> {
  id: string
  /** The page that has it in hand. */
  page: string
  /** Orders the entries. */
  at: number
  value: T
}

const page = newId()
const lockOf = (page: string) => 'ebbe.page.' + page
let who = { person: 0, inbox: 0 }
let last = 0
const stores: { enter: () => void }[] = []
/** Where something of theirs is kept, under a name. */
const under = (name: string) => `ebbe.${who.person}${who.inbox === who.person ? '' : '@' + who.inbox}.${name}`

// Held as long as the page lives, so that others know that it does. Where the
// browser has no locks, entries are sent twice at worst, and done once.
const locks = (navigator as { locks?: LockManager }).locks
void locks?.request(lockOf(page), () => new Promise(() => undefined))

/** Who is signed in, and the inbox they work on; 0 for nobody. */
export const whose = () => who

/** Enters as somebody at their own inbox; tells whether that is another than before. */
export function enterAs(id: number): boolean {
  if (id === who.person && id === who.inbox) return false
  who = { person: id, inbox: id }
  for (const s of stores) s.enter()
  return true
}

/** A kept value of who is signed in, at the inbox they work on; nobody else who uses this browser
 * meets it. With `everywhere` it is the same in all pages. */
export function own<T>(name: string, initial: T, everywhere = false) {
  const store = kept(name, initial, () => under(name))
  stores.push({ enter: store.begin })
  if (everywhere)
    addEventListener('storage', (e) => {
      if (e.key === under(name)) store.reload()
    })
  return store
}

/** Keeps values by their ids until the server has them. */
export function mine<T>(name: string) {
  const store = watched<readonly Entry<T>[]>([])
  const prefix = () => under(name) + '.'
  const write = (e: Entry<T>) => {
    try {
      if (who.person !== 0) localStorage.setItem(prefix() + e.id, JSON.stringify(e))
    } catch {
      // A browser that keeps nothing works all the same.
    }
  }
  const others = (): Entry<T>[] => {
    const out: Entry<T>[] = []
    try {
      for (let i = 0; i < localStorage.length; i++) {
        const key = localStorage.key(i) ?? ''
        if (who.person === 0 || !key.startsWith(prefix())) continue
        try {
          const e = JSON.parse(localStorage.getItem(key) ?? '') as Entry<T>
          if (e.page !== page) out.push(e)
        } catch {
          // One that can't be read stops none of the others.
        }
      }
    } catch {
      // as above
    }
    return out
  }
  const add = (entries: Entry<T>[]) =>
    store.set((was) =>
      [...was.filter((w) => !entries.some((e) => e.id === w.id)), ...entries].sort((a, b) => a.at - b.at),
    )
  stores.push({ enter: () => store.set([]) })
  return {
    get: store.get,
    use: store.use,
    useOf: store.useOf,
    put(id: string, value: T) {
      const at = store.get().find((e) => e.id === id)?.at ?? (last = Math.max(last + 1, Date.now()))
      const entry = { id, page, at, value }
      write(entry)
      add([entry])
    },
    drop(id: string) {
      store.set((was) => was.filter((e) => e.id !== id))
      try {
        localStorage.removeItem(prefix() + id)
      } catch {
        // as above
      }
    },
    /** Takes over what pages have left behind that are no more. Tells whether
     * others still have some in hand: they may be about to close. */
    async adopt(): Promise<boolean> {
      const left = others()
      if (left.length === 0) return false
      const asked = who
      const alive = new Set((await locks?.query())?.held?.map((l) => l.name))
      if (asked !== who) return false
      const orphans = left.filter((e) => !alive.has(lockOf(e.page))).map((e) => ({ ...e, page }))
      orphans.forEach(write)
      add(orphans)
      return orphans.length < left.length
    },
  }
}
