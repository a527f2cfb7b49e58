import { useNavigate } from '@tanstack/react-router'
import { useDrafts } from '../api/queries'
import { stamp } from '../state/time'
import { leave, resume } from '../state/writing'
import { Dialog } from '../kit/Dialog'

/** The other letters that are being written: one is gone on with, this one stays. */
export function OtherDrafts({ draft, onClose }: { draft: string; onClose: () => void }) {
  const { data = [], isPending } = useDrafts()
  const go = useNavigate()
  const others = data.filter((d) => d.id !== draft)
  return (
    <Dialog title="Letters being written" onClose={onClose}>
      {!isPending && others.length === 0 && <p className="py-2 text-ink-2">No other letter is half written.</p>}
      <ul className="flex flex-col">
        {others.map((d, i) => (
          <li key={d.id}>
            <button
              autoFocus={i === 0}
              className="flex min-h-11 w-full items-center gap-3 rounded-[12px] px-3 text-left hover:bg-tide-3"
              onClick={() => {
                onClose()
                leave()
                resume(d)
                if (d.conversation) void go({ to: '/letter/$id', params: { id: String(d.conversation) } })
                else void go({ to: '/inbox' })
              }}
            >
              <span className="w-32 shrink-0 truncate font-semibold">{d.writing.to.join(', ') || 'nobody yet'}</span>
              <span className="min-w-0 flex-1 truncate">{d.writing.subject || '(no subject)'}</span>
              <span className="shrink-0 text-[13px] text-ink-3">{stamp(d.updatedAt)}</span>
            </button>
          </li>
        ))}
      </ul>
    </Dialog>
  )
}
