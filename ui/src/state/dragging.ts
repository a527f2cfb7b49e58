import type { DragEvent } from 'react'
import type { Targets } from './listing'

const kind = 'application/x-ebbe-letters'

/** Lets letters be dragged, each with the last one seen. */
export function drag(e: DragEvent, on: Targets) {
  e.dataTransfer.setData(kind, JSON.stringify(on))
  e.dataTransfer.effectAllowed = 'move'
}

/** Whether letters are being dragged, and not a file. */
export const dragged = (e: DragEvent) => e.dataTransfer.types.includes(kind)

export function letters(e: DragEvent): Targets {
  const text = e.dataTransfer.getData(kind)
  return text ? (JSON.parse(text) as Targets) : []
}
