import { useEffect, useRef, useState } from 'react'
import { handleKey } from '../state/keys'
import { afterPaint } from '../state/paint'

/** A letter's HTML on its own page, in a frame in which nothing runs. The
 * frame grows with the letter, and keys pressed in it reach the page. It is made
 * once the rest of the letter is painted: its page comes later in any case, and
 * making a frame takes longer than all the rest. */
export function LetterFrame({ id, images, title }: { id: number; images: boolean; title: string }) {
  return <Page src={`/api/letters/${id}/page${images ? '?images=1' : ''}`} title={title} />
}

/** A page of the server in such a frame. */
export function Page({ src, title }: { src: string; title: string }) {
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
      const fit = () => setHeight(Math.min(Math.max(doc.body.scrollHeight + 8, 40), 30_000))
      fit()
      watch?.disconnect()
      watch = new ResizeObserver(fit)
      watch.observe(doc.body)
      doc.addEventListener('keydown', handleKey)
    }
    el.addEventListener('load', loaded)
    return () => {
      watch?.disconnect()
      el.removeEventListener('load', loaded)
    }
  }, [src, wanted])
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
