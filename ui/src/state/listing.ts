import { useCallback, useEffect, useMemo, useState } from 'react'
import { api, errorText, take, type Row } from '../api/client'
import { client, conversationQuery, editRows, useList, type ListKey, type Place } from '../api/queries'
import { carryOut, decisionOn, told, type DecisionBody } from './commands'
import { useHidden } from './hiding'
import { say } from './spoken'
import { composing } from './writing'
import { failed } from './failed'
import { afterPaint } from './paint'
import { useRowFocus } from './rows'

/** A conversation that something is done to: the last letter seen of it, and the
 * version and place at which it stood. */
export interface Target {
  id: number
  last: number
  version?: number
  place?: string
}
export type Targets = Target[]
export const targetOf = (r: Target): Target => ({ id: r.id, last: r.last, version: r.version, place: r.place })

const idOf = (r: Row) => r.id

/** A list with the row in focus, the rows selected, and what can be done to them;
 * the letters next to it are fetched `ahead`. */
export function useListing(key: ListKey, ahead = true) {
  const list = useList(key)
  const hidden = useHidden()
  const rows = useMemo(
    () => (list.data?.pages ?? []).flatMap((p) => p.rows).filter((r) => !hidden.has(r.id)),
    [list.data, hidden],
  )
  const [reading, setReading] = useState(() => composing.get()?.conversation !== undefined)
  const { name, account } = key
  const all = useCallback(async () => {
    try {
      const there = await take(
        api.GET('/api/places/{place}/all', { params: { path: { place: name as Place }, query: { account } } }),
      )
      return new Map<number, Target>(there.map((s) => [s.id, { ...s, place: name }]))
    } catch (e) {
      failed(errorText(e, 'The list could not be read.'))
    }
  }, [name, account])
  const everywhere = name === 'sent' || name === 'search' // they are of no one place
  const focused = useRowFocus<Row, number, Target>({
    rows,
    keyOf: idOf,
    pick: targetOf,
    // A letter that is being written keeps its conversation in focus, also after a reload.
    initial: () => composing.get()?.conversation,
    all: everywhere ? undefined : all,
  })
  const { focus, index, selected, clear, move, focusOn } = focused

  // The next letters are fetched ahead, so that they are there at once.
  useEffect(() => {
    if (!ahead) return
    const near = [rows[index + 1], rows[index + 2], rows[index - 1]]
    return afterPaint(() => {
      for (const one of near) if (one) void client.prefetchQuery(conversationQuery(one.id))
    })
  }, [rows, index, ahead])

  const { hasNextPage, fetchNextPage, isFetchingNextPage } = list
  const needMore = hasNextPage && !isFetchingNextPage && index > rows.length - 40
  useEffect(() => {
    if (needMore) void fetchNextPage()
  }, [needMore, fetchNextPage])

  const targets = useCallback((): Targets => {
    if (selected.size === 0) return focus ? [{ ...targetOf(focus), last: lastSeen(focus) }] : []
    return [...selected.values()]
  }, [selected, focus])

  /** After a decision: the letters leave, and the next one is there. */
  const left = useCallback(() => {
    clear()
    setReading((was) => was && rows.length > 1)
  }, [rows.length, clear])

  const decide = useCallback(
    (body: DecisionBody, on: Targets) => {
      if (on.length === 0) return
      const ids = new Set(on.map((t) => t.id))
      const next = rows.slice(index).find((r) => !ids.has(r.id)) ?? rows.findLast((r) => !ids.has(r.id))
      // What was looked for stays in sight, and says where it is now.
      void carryOut(decisionOn(body, on, everywhere ? [] : on.map((t) => t.id))).then((o) => {
        if (!o) return
        say(
          `${o.title}. ${next ? `Next: ${next.from.name || next.from.email}, ${next.title}. ${next.ask}` : 'That was the last.'}`,
        )
        if (matchMedia('(width < 48rem)').matches) told(o) // there is no Undo key in sight
      })
      left()
      if (everywhere && on.length === 1) move(1)
      else if (!everywhere && next) focusOn(next.id) // at once with what leaves
    },
    [left, everywhere, move, focusOn, rows, index],
  )

  const star = useCallback(
    (on: Targets) => {
      const off = on.every((t) => rows.find((r) => r.id === t.id)?.star)
      const ids = new Set(on.map((t) => t.id))
      editRows((r) => (ids.has(r.id) ? { ...r, star: !off } : r))
      void carryOut({ path: 'mark', body: { on: [...ids], mark: 'star', off } })
    },
    [rows],
  )

  /** They stay in the archive from now on when letters come; or no longer. */
  const quiet = useCallback(
    (on: Targets) => {
      if (on.length === 0) return
      const off = on.every((t) => rows.find((r) => r.id === t.id)?.quiet)
      const ids = on.map((t) => t.id)
      const hides = key.name === 'inbox' && !off ? ids : undefined
      void carryOut({ path: 'mark', body: { on: ids, mark: 'quiet', off }, ...(hides ? { hides } : {}) }).then(told)
      if (hides) left()
    },
    [rows, key.name, left],
  )

  return { ...focused, key, list, reading, setReading, targets, decide, left, star, quiet }
}

export type Listing = ReturnType<typeof useListing>

/** The last letter that the open page has shown of a conversation: what a
 * decision covers. A newer one that came in between is not covered. */
function lastSeen(row: Row): number {
  const open = client.getQueryData<{ last: number }>(['conversation', row.id])
  return open ? open.last : row.last
}
