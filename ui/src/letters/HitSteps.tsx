import { ChevronDown, ChevronUp } from 'lucide-react'
import { useRef, useState } from 'react'
import { keyName, useKeyOf, useKeys } from '../state/keys'

/** Goes from one mark of what was found to the next, in the letter below. */
export function HitSteps({ words }: { words: readonly string[] }) {
  const bar = useRef<HTMLDivElement>(null)
  const [at, setAt] = useState<{ n: number; of: number }>()
  const keyOf = useKeyOf()
  const step = (by: 1 | -1) => {
    const article = bar.current?.closest('article')
    if (!article) return
    const inFrames = [...article.querySelectorAll('iframe')].flatMap((f) => [
      ...(f.contentDocument?.querySelectorAll<HTMLElement>('mark[data-hit]') ?? []),
    ])
    const marks = [...article.querySelectorAll<HTMLElement>('mark[data-hit]'), ...inFrames]
    if (marks.length === 0) return setAt({ n: 0, of: 0 })
    const before = marks.findIndex((m) => m.hasAttribute('data-at'))
    const n = before < 0 ? (by > 0 ? 0 : marks.length - 1) : (before + by + marks.length) % marks.length
    marks[before]?.removeAttribute('data-at')
    marks[before]?.style.removeProperty('outline')
    const mark = marks[n]
    mark?.setAttribute('data-at', '')
    mark?.style.setProperty('outline', '3px solid #B4552D')
    mark?.scrollIntoView({ block: 'center' })
    setAt({ n: n + 1, of: marks.length })
  }
  useKeys({ nextHit: () => step(1), lastHit: () => step(-1) })
  return (
    <div ref={bar} className="mt-3 flex flex-wrap items-center gap-1.5 text-[13px] text-ink-2">
      <span className="min-w-0 truncate">Found here: {words.slice(0, 4).join(', ')}</span>
      <span role="status" className="tabular-nums">
        {at && (at.of === 0 ? 'in what is not shown' : `${at.n} of ${at.of}`)}
      </span>
      <button className="btn btn-small btn-tight" onClick={() => step(-1)} aria-label="The mark before">
        <ChevronUp className="size-3.5" aria-hidden />{' '}
        <span className="key max-md:hidden">{keyName(keyOf('lastHit'))}</span>
      </button>
      <button className="btn btn-small btn-tight" onClick={() => step(1)} aria-label="The next mark">
        <ChevronDown className="size-3.5" aria-hidden />{' '}
        <span className="key max-md:hidden">{keyName(keyOf('nextHit'))}</span>
      </button>
    </div>
  )
}
