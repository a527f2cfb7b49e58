import { useEffect, useRef, useState } from 'react'
import { handleKey } from '../state/keys'
import { afterPaint } from '../state/paint'

/** A letter's HTML on its own page, in a frame in which nothing runs. The
 * frame grows with the letter, and keys pressed in it reach the page. It is made
 * once the rest of the letter is painted: its page comes later in any case, and
 * making a frame takes longer than all the rest. */
export function LetterFrame({
  id,
  images,
  title,
  marks,
}: {
  id: number
  images: boolean
  title: string
  marks?: readonly string[]
}) {
  return <Page src={`/api/letters/${id}/page${images ? '?images=1' : ''}`} title={title} marks={marks} />
}

const unmarked: readonly string[] = []

/** Marks what was found in a letter’s page, or takes the marks away. */
function mark(doc: Document, quotes: readonly string[]) {
  for (const old of doc.querySelectorAll('mark[data-hit]')) old.replaceWith(...old.childNodes)
  doc.body.normalize()
  const texts = doc.createTreeWalker(doc.body, NodeFilter.SHOW_TEXT)
  const nodes: Text[] = []
  while (texts.nextNode()) nodes.push(texts.currentNode as Text)
  for (const node of nodes) {
    let rest = node
    for (let text = rest.data; ; text = rest.data) {
      const first = quotes
        .map((q) => ({ q, at: text.indexOf(q) }))
        .filter(({ at }) => at >= 0)
        .sort((a, b) => a.at - b.at)[0]
      if (!first) break
      const found = rest.splitText(first.at)
      rest = found.splitText(first.q.length)
      const el = doc.createElement('mark')
      el.setAttribute('data-hit', '')
      el.style.cssText = 'background:#F6E3B4;color:inherit;border-radius:2px'
      found.replaceWith(el)
      el.append(found)
    }
  }
}

/** A page of the server in such a frame. */
export function Page({
  src,
  title,
  marks = unmarked,
}: {
  src: string
  title: string
  marks?: readonly string[] | undefined
}) {
  const frame = useRef<HTMLIFrameElement>(null)
  const [height, setHeight] = useState(160)
  const [wanted, setWanted] = useState(false)
  useEffect(() => afterPaint(() => setWanted(true)), [])
  useEffect(() => {
    const el = frame.current
    if (!el) return
    let watch: ResizeObserver | undefined
    const loaded = () => {
      const doc = el.contentDocument
      if (!doc?.body) return
      mark(doc, marks)
      const fit = () => setHeight(Math.min(Math.max(doc.body.scrollHeight + 8, 40), 30_000))
      fit()
      watch?.disconnect()
      watch = new ResizeObserver(fit)
      watch.observe(doc.body)
      doc.addEventListener('keydown', handleKey)
    }
    el.addEventListener('load', loaded)
    if (el.contentDocument?.readyState === 'complete') loaded()
    return () => {
      watch?.disconnect()
      el.removeEventListener('load', loaded)
    }
  }, [src, wanted, marks])
  if (!wanted) return <div aria-busy style={{ height }} />
  return (
    <iframe
      ref={frame}
      title={title}
      src={src}
      sandbox="allow-same-origin allow-popups allow-popups-to-escape-sandbox"
      className="w-full rounded-lg bg-[#FDFDFA]"
      style={{ height, colorScheme: 'light' }}
    />
  )
}
