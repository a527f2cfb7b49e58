import { useState, type DragEvent } from 'react'
import type { Shoal } from '../api/client'
import type { Kind } from '../state/sorting'
import { tones } from './tones'

/** The depth of the Shallows: a sounding of each kind, as deep as there is of it. */
export function Gauge({
  kinds,
  at,
  onTo,
  onDrop,
}: {
  kinds: Shoal[]
  at: string | undefined
  onTo: (kind: string) => void
  /** Takes what is dragged, while something is. */
  onDrop: ((e: DragEvent, kind: Kind) => void) | undefined
}) {
  const [over, setOver] = useState<Kind>()
  const takes = (kind: Kind) =>
    onDrop && {
      onDragOver: (e: DragEvent) => {
        e.preventDefault()
        setOver(kind)
      },
      onDragLeave: () => setOver(undefined),
      onDrop: (e: DragEvent) => {
        setOver(undefined)
        onDrop(e, kind)
      },
    }
  const deepest = Math.max(1, ...kinds.map((k) => Math.sqrt(k.n)))
  return (
    <nav aria-label="Kinds" className="flex w-[118px] shrink-0 flex-col gap-3 overflow-y-auto pt-1 pb-4 max-md:hidden">
      {onDrop && (
        <div
          className={`rounded-lg border-2 border-dashed p-2 text-[13px] font-semibold ${over === 'person' ? 'border-tide bg-tide-2' : 'border-line'}`}
          {...takes('person')}
        >
          To the inbox
        </div>
      )}
      {kinds.map((k) => (
        <button
          key={k.kind}
          aria-current={at === k.kind || undefined}
          {...takes(k.kind)}
          className={`flex gap-2 rounded-lg p-1 text-left hover:bg-paper ${over === k.kind && onDrop ? 'bg-tide-2' : at === k.kind ? 'bg-paper' : ''}`}
          onClick={() => onTo(k.kind)}
        >
          <span
            aria-hidden
            className={`relative w-6 shrink-0 overflow-hidden rounded-md ${tones[k.kind]} ${k.unread ? '' : 'opacity-45'}`}
            style={{ height: `${Math.round(28 + (Math.sqrt(k.n) / deepest) * 110)}px` }}
          >
            {Array.from({ length: 12 }, (_, i) => (
              <i
                key={i}
                className={`absolute left-0 h-px bg-on-deep/60 ${i % 4 === 3 ? 'w-3' : 'w-1.5'}`}
                style={{ top: `${8 + i * 12}px` }}
              />
            ))}
          </span>
          <span className="min-w-0">
            <span className="block truncate text-[13px] font-semibold">{k.name}</span>
            <span className="block text-[12px] text-ink-2">
              {k.n}
              {k.note && `, ${k.note}`}
            </span>
          </span>
        </button>
      ))}
    </nav>
  )
}
