import { useVirtualizer, type Virtualizer } from '@tanstack/react-virtual'
import { useEffect, useLayoutEffect, type CSSProperties, type Key, type ReactNode, type RefObject } from 'react'

type Scroller = RefObject<HTMLDivElement | null>

interface Options<T> {
  /** The item in focus and where it is: it is brought in sight when the focus moves,
   * not when items come and go around it. */
  focus?: { key: Key | undefined; at: number }
  keyOf?: (item: T) => Key
  /** Heights are measured once drawn; those given are guesses then. */
  measured?: boolean
  overscan?: number
}

/** Draws of a long list only what is in sight. */
export function useRows<T>(items: T[], scroller: Scroller, height: (item: T) => number, options: Options<T> = {}) {
  const { focus, keyOf, measured, overscan = 6 } = options
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => {
      const item = items[i]
      return item === undefined ? 0 : height(item)
    },
    getItemKey: (i) => {
      const item = items[i]
      return item === undefined || !keyOf ? i : (keyOf(item) as string | number)
    },
    overscan,
    useFlushSync: false, // drawing may wait for the next frame, which keeps each task short
  })
  useLayoutEffect(() => {
    if (!measured) virtual.measure()
  }, [items, virtual, measured])
  const at = focus?.at ?? -1
  useEffect(() => {
    if (at >= 0) virtual.scrollToIndex(at, { align: 'auto' })
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus?.key])
  return virtual
}

/** The items in sight, each at its place; ref measures one whose height is only
 * known once it is drawn. */
export function Rows<T>(props: {
  virtual: Virtualizer<HTMLDivElement, Element>
  items: T[]
  children: (item: T, style: CSSProperties, key: Key, measure: object) => ReactNode
}) {
  const measure = (index: number) => ({ ref: props.virtual.measureElement, 'data-index': index })
  return (
    <div className="relative w-full" role="presentation" style={{ height: props.virtual.getTotalSize() }}>
      {props.virtual.getVirtualItems().map((v) => {
        const item = props.items[v.index]
        return item === undefined
          ? null
          : props.children(item, { top: v.start, height: v.size }, v.key, measure(v.index))
      })}
    </div>
  )
}
