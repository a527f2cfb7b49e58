import { useRef, useState } from 'react'
import { api, errorText, take } from '../api/client'
import { failed } from './failed'
import type { GroupedPlace } from './grouping'
import type { Listing, Target } from './listing'
import { toast } from './toast'

const places: readonly string[] = ['inbox', 'archive', 'bin', 'junk', 'search']

/** Selects what is like the letter in focus: of its list, its sender, its subject, one after the other. */
export function useAlike(listing: Listing) {
  const { name, account, q, within } = listing.key
  const last = useRef({ id: 0, way: -1 })
  const [chosen, setChosen] = useState<{ words: string; of: ReadonlyMap<number, Target> }>()
  const alike = async () => {
    const id = listing.focus?.id
    if (id === undefined) return
    try {
      const { ways } = await take(
        api.GET('/api/groups/{place}/like/{id}', {
          params: {
            path: { place: name === 'search' ? 'found' : (name as GroupedPlace), id },
            query: { account, ...(q ? { q, within } : {}) },
          },
        }),
      )
      if (ways.length === 0) return toast('Nothing else here is like it.')
      const again = last.current.id === id && listing.selected.size > 0
      last.current = { id, way: again ? (last.current.way + 1) % ways.length : 0 }
      const way = ways[last.current.way]
      if (!way) return
      const of = new Map(way.on.map((s): [number, Target] => [s.id, { ...s, place: name }]))
      setChosen({ words: way.words, of })
      listing.choose(of)
    } catch (e) {
      failed(errorText(e, 'What is like it could not be looked for.'))
    }
  }
  return {
    alike: places.includes(name) ? () => void alike() : undefined,
    /** What is selected, as long as it is just that. */
    words: chosen?.of === listing.selected ? chosen.words : '',
  }
}
