import { useEffect, useRef } from 'react'
import type { Doubt } from '../api/client'

/** What is doubtful in a letter, said once before it goes. */
export function Doubts({ doubts, onBack, onSend }: { doubts: Doubt[]; onBack: () => void; onSend: () => void }) {
  const go = useRef<HTMLButtonElement>(null)
  useEffect(() => go.current?.focus(), [])
  return (
    <div
      role="alertdialog"
      aria-label="Before it goes"
      className="shrink-0 border-t border-lamp bg-lamp-2 px-6 py-2 max-md:px-4"
    >
      <ul className="text-[14px]">
        {doubts.map((d) => (
          <li key={d.kind + d.words}>{d.words}</li>
        ))}
      </ul>
      <div className="flex gap-2 pt-2">
        <button ref={go} type="button" className="btn btn-main" onClick={onSend}>
          Send all the same <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Ctrl ↵</span>
        </button>
        <button type="button" className="btn" onClick={onBack}>
          Back to the letter <span className="key">Esc</span>
        </button>
      </div>
    </div>
  )
}
