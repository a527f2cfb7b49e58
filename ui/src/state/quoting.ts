import { useEffect, useState } from 'react'
import type { Ask } from '../api/client'

/** What is selected within a part of the page, or in a letter's frame in it. */
function selectedIn(root: HTMLElement | null): string {
  if (!root) return ''
  const own = document.getSelection()
  if (own && !own.isCollapsed && root.contains(own.anchorNode)) return own.toString()
  for (const frame of root.querySelectorAll('iframe')) {
    const text = frame.contentDocument?.getSelection()?.toString()
    if (text) return text
  }
  return ''
}

/** Text as an answer quotes it. */
export const quoted = (text: string) =>
  text
    .trim()
    .split('\n')
    .map((line) => `> ${line.trimEnd()}`.trimEnd())
    .join('\n')

const flat = (text: string) => text.replace(/[>\s]+/g, ' ').trim()

/** Fewer words than that are a greeting. */
const somethingSaid = 4

/** What an answer between the quoted parts takes up next, where nothing is selected: the
 * first ask that is not covered, else the first part of the letter that asks nothing; what is
 * quoted already is passed over. Empty where nothing is left. */
export function nextToQuote(asks: Ask[], letter: string, text: string): string {
  const taken = flat(
    text
      .split('\n')
      .filter((line) => line.startsWith('>'))
      .join('\n'),
  )
  const parts = letter
    .split('\n')
    .map((line) => (/^> ?(?!>)/.test(line) ? line.replace(/^> ?/, '') : ''))
    .join('\n')
    .split(/\n\s*\n/)
    .filter((part) => part.trim().split(/\s+/).length >= somethingSaid)
    .filter((part) => !asks.some((a) => flat(part).includes(flat(a.text))))
  const open = asks.filter((a) => !a.covered).map((a) => a.text)
  return [...open, ...parts].find((part) => !taken.includes(flat(part))) ?? ''
}

/** Whether something is selected in a part of the page, and what. */
export function useSelected(root: HTMLElement | null): () => string {
  const [, told] = useState('')
  useEffect(() => {
    if (!root) return
    const look = () => told(selectedIn(root))
    const frames = new Set<Document>()
    // Letters have frames of their own, which come later and say what is selected there.
    const watch = () => {
      for (const frame of root.querySelectorAll('iframe')) {
        const doc = frame.contentDocument
        if (!doc || frames.has(doc)) continue
        frames.add(doc)
        doc.addEventListener('selectionchange', look)
      }
    }
    watch()
    const seen = new MutationObserver(watch)
    seen.observe(root, { childList: true, subtree: true })
    root.addEventListener('load', watch, true)
    document.addEventListener('selectionchange', look)
    return () => {
      seen.disconnect()
      root.removeEventListener('load', watch, true)
      document.removeEventListener('selectionchange', look)
      for (const doc of frames) doc.removeEventListener('selectionchange', look)
    }
  }, [root])
  return () => selectedIn(root)
}
