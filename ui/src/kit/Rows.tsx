import { useVirtualizer, type Virtualizer } from '@tanstack/react-virtual'
import { useLayoutEffect, type CSSProperties, type Key, type ReactNode, type RefObject } from 'react'

type Scroller = RefObject<HTMLDivElement | null>

/** Draws of a long list only what is in sight; each item has a height known
 * beforehand. */
export function useRows<T>(items: T[], scroller: Scroller, height: (item: T) => number) {
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => {
      const item = items[i]
      return item === undefined ? 0 : height(item)
    },
    overscan: 6,
    useFlushSync: false, // drawing may wait for the next frame, which keeps each task short
  })
  useLayoutEffect(() => virtual.measure(), [items, virtual])
  return virtual
}

/** The items in sight, each at its place. */
export function Rows<T>(props: {
  virtual: Virtualizer<HTMLDivElement, Element>
  items: T[]
  children: (item: T, style: CSSProperties, key: Key) => ReactNode
}) {
  return (
    <div className="relative" style={{ height: props.virtual.getTotalSize() }}>
      {props.virtual.getVirtualItems().map((v) => {
        const item = props.items[v.index]
        return item === undefined ? null : props.children(item, { top: v.start, height: v.size }, v.key)
      })}
    </div>
  )
}
