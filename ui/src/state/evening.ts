import { useEffect } from 'react'
import type { Overview } from '../api/client'
import { isWriting } from './focus'
import { own } from './mine'
import { kept } from './store'
import { serverNow, useMinute } from './time'

/** Whether the day sheet opens by itself in the evening: a wish of this device. */
export const sheetOpens = kept('sheet-opens', false)
/** The evening for which it has opened. */
const opened = own('sheet-opened', '')

/** Opens the day sheet once in the evening, where it is wanted and nothing is under way. */
export function useEveningSheet(overview: Overview | undefined, path: string, open: () => void) {
  const wanted = sheetOpens.use()
  useMinute()
  const evening = overview?.evening ?? ''
  const due = wanted && evening !== '' && opened.get() !== evening && serverNow() >= new Date(evening)
  useEffect(() => {
    if (!due || document.hidden) return
    if (path === '/day-sheet') return opened.set(evening)
    if (path !== '/inbox' || isWriting() || document.querySelector('[role=dialog]')) return
    opened.set(evening)
    open()
  })
}
