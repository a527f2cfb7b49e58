import { useCallback, useEffect, useRef, useState } from 'react'
import { useKeys, type Handlers } from './keys'

interface Options<T, K, S> {
  rows: T[]
  keyOf: (row: T) => K
  /** What is kept of a row that is selected. */
  pick: (row: T) => S
  initial?: K | (() => K | undefined)
  /** Everything that can be selected, where not all rows have been read. */
  all?: () => Promise<ReadonlyMap<K, S> | undefined>
  /** Only one at a time: there is nothing to be done with several. */
  single?: boolean
  /** What is done beside, when the focus moves by a key. */
  onMove?: (row: T) => void
}

interface Before<T> {
  rows: T[]
  index: number
}

/** A row that has left gives its place to the one that followed it, else to the one
 * before it. */
function follower<T, K>(rows: T[], keyOf: (row: T) => K, before: Before<T>): number {
  // Mostly a single one has left: then there is nothing to look for.
  const [here, after] = [rows[before.index], before.rows[before.index + 1]]
  if (here !== undefined && after !== undefined && keyOf(here) === keyOf(after)) return before.index
  const places = new Map(rows.map((r, i) => [keyOf(r), i]))
  const there = (r: T) => places.has(keyOf(r))
  const next = before.rows.slice(before.index).find(there) ?? before.rows.slice(0, before.index).findLast(there)
  return (next === undefined ? undefined : places.get(keyOf(next))) ?? Math.min(before.index, rows.length - 1)
}

/** The rows of a list, whatever they stand for: the one in focus, those selected,
 * and how both move. */
export function useRowFocus<T, K extends string | number, S>(options: Options<T, K, S>) {
  const { rows, keyOf, pick, all, single, onMove } = options
  const [at, setAt] = useState(options.initial)
  const [selected, setSelected] = useState<ReadonlyMap<K, S>>(new Map())
  const anchor = useRef<number>(undefined)
  const before = useRef<Before<T>>({ rows: [], index: 0 })
  const wanted = useRef<K>(undefined)

  const found = rows.findIndex((r) => keyOf(r) === at)
  const index = found >= 0 ? found : follower(rows, keyOf, before.current)
  const focus: T | undefined = rows[index]
  const key = focus === undefined ? undefined : keyOf(focus)
  /** Moves the focus to a row that is there, or once it is there again. */
  const focusOn = useCallback((to: K) => {
    wanted.current = to
    setAt(to)
  }, [])
  useEffect(() => {
    const to = wanted.current
    if (to !== undefined && rows.some((r) => keyOf(r) === to)) {
      setAt(to)
      wanted.current = undefined
      return
    }
    if (index >= 0) before.current = { rows, index }
    if (key !== undefined && key !== at) setAt(key)
  }, [index, key, at, rows, keyOf])

  const move = useCallback(
    (by: number, extend = false) => {
      const target = Math.min(Math.max(index + by, 0), rows.length - 1)
      const to = rows[target]
      if (to === undefined) return
      wanted.current = undefined
      if (extend && !single) {
        anchor.current ??= index
        const [a, b] = [Math.min(anchor.current, target), Math.max(anchor.current, target)]
        setSelected(new Map(rows.slice(a, b + 1).map((r) => [keyOf(r), pick(r)])))
      } else {
        anchor.current = undefined
      }
      setAt(keyOf(to))
      onMove?.(to)
    },
    [rows, index, keyOf, pick, single, onMove],
  )
  const toggle = useCallback(
    (row: T) =>
      setSelected((was) => {
        if (single) return was
        const now = new Map(was)
        if (!now.delete(keyOf(row))) now.set(keyOf(row), pick(row))
        return now
      }),
    [keyOf, pick, single],
  )
  const selectAll = useCallback(async () => {
    if (single) return
    const everything = all ? await all() : new Map(rows.map((r) => [keyOf(r), pick(r)]))
    if (everything) setSelected(everything)
  }, [all, rows, keyOf, pick, single])
  const choose = useCallback((some: ReadonlyMap<K, S>) => setSelected(some), [])
  const clear = useCallback(() => setSelected(new Map()), [])

  return { rows, index, focus, at, selected, focusOn, move, toggle, selectAll, choose, clear }
}

export type RowFocus<T, K, S> = ReturnType<typeof useRowFocus<T, K & (string | number), S>>

/** The keys of a list: to move in it and to select; Escape first ends a selection. */
export function useRowKeys<T, K extends string | number, S>(
  list: RowFocus<T, K, S>,
  more: Handlers,
  onEscape?: () => void,
) {
  useKeys({
    next: (e) => list.move(1, e.shiftKey),
    previous: (e) => list.move(-1, e.shiftKey),
    select: () => list.focus !== undefined && list.toggle(list.focus),
    ...more,
  })
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      const field =
        e.target instanceof Element &&
        e.target.closest('input:not([type=checkbox]), textarea, select, [role=dialog], [role=menu]')
      if (field || e.defaultPrevented) return
      if (e.key === 'Escape') {
        if (list.selected.size > 0) list.clear()
        else onEscape?.()
      }
      if (e.key === 'Home' || e.key === 'End') {
        e.preventDefault()
        list.move(e.key === 'Home' ? -Infinity : Infinity)
      }
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'a') {
        e.preventDefault()
        void list.selectAll()
      }
    }
    addEventListener('keydown', keys)
    return () => removeEventListener('keydown', keys)
  })
}
