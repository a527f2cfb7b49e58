import { useVirtualizer, type Virtualizer } from '@tanstack/react-virtual'
import { useCallback, useEffect, type CSSProperties, type Key, type ReactNode, type RefObject } from 'react'

type Scroller = RefObject<HTMLDivElement | null>

interface Options<T> {
  /** The item in focus and where it is: it is brought in sight when the focus moves,
   * not when items come and go around it. */
  focus?: { key: Key | undefined; at: number }
  keyOf?: (item: T) => Key
  overscan?: number
}

/** Draws of a long list only what is in sight. */
export function useRows<T>(items: T[], scroller: Scroller, height: (item: T) => number, options: Options<T> = {}) {
  const { focus, keyOf, overscan = 6 } = options
  // Another function of keys is how the virtual list knows of other items: it then
  // reckons where each is.
  const getItemKey = useCallback(
    (i: number) => {
      const item = items[i]
      return item === undefined || !keyOf ? i : (keyOf(item) as string | number)
    },
    [items, keyOf],
  )
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => {
      const item = items[i]
      return item === undefined ? 0 : height(item)
    },
    getItemKey,
    overscan,
    useFlushSync: false, // drawing may wait for the next frame, which keeps each task short
  })
  const at = focus?.at ?? -1
  useEffect(() => {
    // To scroll to what is in sight would change nothing, and measure the page for it.
    if (at >= 0 && !inSight(virtual, at)) virtual.scrollToIndex(at, { align: 'auto' })
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus?.key])
  return virtual
}

function inSight(virtual: Virtualizer<HTMLDivElement, Element>, at: number): boolean {
  const item = virtual.measurementsCache[at]
  const { scrollOffset, scrollRect } = virtual
  if (!item || scrollOffset === null || !scrollRect) return false
  return item.start >= scrollOffset && item.end <= scrollOffset + scrollRect.height
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
