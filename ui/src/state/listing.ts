import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { api, errorText, take, type Row } from '../api/client'
import { client, conversationQuery, useList, type ListData, type ListKey } from '../api/queries'
import { carryOut, told, useHidden, type DecideBody } from './commands'
import { say } from './spoken'
import { composing } from './writing'
import { failed } from './failed'

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

/** A list with the row in focus, the rows selected, and what can be done to
 * them. */
export function useListing(key: ListKey) {
  const list = useList(key)
  const hidden = useHidden()
  const rows = useMemo(
    () => (list.data?.pages ?? []).flatMap((p) => p.rows).filter((r) => !hidden.has(r.id)),
    [list.data, hidden],
  )
  // A letter that is being written keeps its conversation in focus, also after a reload.
  const [focusId, setFocusId] = useState<number | undefined>(() => composing.get()?.conversation)
  const [selected, setSelected] = useState<ReadonlyMap<number, Target>>(new Map())
  const [reading, setReading] = useState(() => composing.get()?.conversation !== undefined)
  const anchor = useRef<number>(undefined)
  const place = useRef(0)
  const wanted = useRef<number>(undefined)

  const found = rows.findIndex((r) => r.id === focusId)
  // A row that has left gives its place to the one that follows.
  const index = found >= 0 ? found : Math.min(place.current, rows.length - 1)
  const focus: Row | undefined = rows[index]
  /** Moves the focus to a row that is there, or once it is there again. */
  const focusOn = useCallback((id: number) => {
    wanted.current = id
    setFocusId(id)
  }, [])
  useEffect(() => {
    if (wanted.current !== undefined && rows.some((r) => r.id === wanted.current)) {
      setFocusId(wanted.current)
      wanted.current = undefined
      return
    }
    if (index >= 0) place.current = index
    if (focus && focus.id !== focusId) setFocusId(focus.id)
  }, [index, focus, focusId, rows])

  // The next letters are fetched ahead, so that they are there at once.
  useEffect(() => {
    for (const near of [rows[index + 1], rows[index + 2], rows[index - 1]]) {
      if (near) void client.prefetchQuery(conversationQuery(near.id))
    }
  }, [rows, index])

  const { hasNextPage, fetchNextPage, isFetchingNextPage } = list
  const needMore = hasNextPage && !isFetchingNextPage && index > rows.length - 40
  useEffect(() => {
    if (needMore) void fetchNextPage()
  }, [needMore, fetchNextPage])

  const move = useCallback(
    (by: number, extend = false) => {
      const to = rows[Math.min(Math.max(index + by, 0), rows.length - 1)]
      if (!to) return
      wanted.current = undefined
      if (extend && focus) {
        anchor.current ??= index
        const target = Math.min(Math.max(index + by, 0), rows.length - 1)
        const [a, b] = [Math.min(anchor.current, target), Math.max(anchor.current, target)]
        setSelected(new Map(rows.slice(a, b + 1).map((r) => [r.id, targetOf(r)])))
      } else {
        anchor.current = undefined
      }
      setFocusId(to.id)
    },
    [rows, index, focus],
  )

  const toggle = useCallback((row: Row) => {
    setSelected((was) => {
      const now = new Map(was)
      if (!now.delete(row.id)) now.set(row.id, targetOf(row))
      return now
    })
  }, [])

  const selectAll = useCallback(async () => {
    if (key.name === 'sent' || key.name === 'search') {
      setSelected(new Map(rows.map((r) => [r.id, targetOf(r)])))
      return
    }
    try {
      const all = await take(
        api.GET('/api/places/{place}/all', { params: { path: { place: key.name }, query: { account: key.account } } }),
      )
      setSelected(new Map(all.map((s) => [s.id, { ...s, place: key.name }])))
    } catch (e) {
      failed(errorText(e, 'The list could not be read.'))
    }
  }, [key.name, key.account, rows])

  const targets = useCallback((): Targets => {
    if (selected.size === 0) return focus ? [{ ...targetOf(focus), last: lastSeen(focus) }] : []
    return [...selected.values()]
  }, [selected, focus])

  const clear = useCallback(() => setSelected(new Map()), [])

  const stays = key.name === 'search' || key.name === 'sent'
  /** After a decision: the letters leave, and the next one is there. */
  const left = useCallback(() => {
    setSelected(new Map())
    setReading((was) => was && rows.length > 1)
  }, [rows.length])

  const decide = useCallback(
    (body: Omit<DecideBody, 'on'>, on: Targets) => {
      if (on.length === 0) return
      const ids = new Set(on.map((t) => t.id))
      const next = rows.slice(index).find((r) => !ids.has(r.id)) ?? rows.findLast((r) => !ids.has(r.id))
      // What was looked for stays in sight, and says where it is now.
      void carryOut({
        path: 'decide',
        body: { ...body, on },
        ...(stays ? {} : { hides: on.map((t) => t.id) }),
      }).then((o) => {
        if (!o) return
        say(
          `${o.title}. ${next ? `Next: ${next.from.name || next.from.email}, ${next.title}. ${next.ask}` : 'That was the last.'}`,
        )
        if (matchMedia('(width < 48rem)').matches) told(o) // there is no Undo key in sight
      })
      left()
      if (stays && on.length === 1) move(1)
    },
    [left, stays, move, rows, index],
  )

  const star = useCallback(
    (on: Targets) => {
      const off = on.every((t) => rows.find((r) => r.id === t.id)?.star)
      const ids = new Set(on.map((t) => t.id))
      client.setQueriesData<ListData>(
        { queryKey: ['list'] },
        (data) =>
          data && {
            ...data,
            pages: data.pages.map((p) => ({
              ...p,
              rows: p.rows.map((r) => (ids.has(r.id) ? { ...r, star: !off } : r)),
            })),
          },
      )
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

  return {
    key,
    list,
    rows,
    focus,
    index,
    selected,
    reading,
    focusOn,
    setReading,
    move,
    toggle,
    selectAll,
    clear,
    targets,
    decide,
    left,
    star,
    quiet,
  }
}

export type Listing = ReturnType<typeof useListing>

/** The last letter that the open page has shown of a conversation: what a
 * decision covers. A newer one that came in between is not covered. */
function lastSeen(row: Row): number {
  const open = client.getQueryData<{ last: number }>(['conversation', row.id])
  return open ? open.last : row.last
}
