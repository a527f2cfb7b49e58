import { FilePen, Trash2, X } from 'lucide-react'
import type { ReactNode } from 'react'
import type { Writing } from '../api/client'
import { useDrafts, usePhrase } from '../api/queries'
import { keptAt, leave, type } from '../state/writing'
import { clock } from '../state/time'

const plain = { plain: true } as const
const asRecurs = { plain: true, as: 'recurs' } as const

/** What was chosen for a letter that is being written, and what becomes of it otherwise. */
export function SendingRow(props: {
  w: Writing
  draft: string
  /** When it leaves, and until when an answer is waited for, as they were understood here. */
  leaves: string | undefined
  until: string | undefined
  onNoLater: () => void
  onNoWait: () => void
  onOthers: () => void
  onDrop: () => void
}) {
  const { w, until } = props
  const waits = usePhrase(w.wait ?? '', plain, Boolean(w.wait) && !until).data?.reading
  const sends = usePhrase(w.later ?? '', plain, Boolean(w.later) && !props.leaves).data?.reading
  const every = w.every?.trim() ?? ''
  const again = usePhrase(every, asRecurs, every !== '').data
  const { data: drafts = [] } = useDrafts()
  const kept = keptAt.use()
  const others = drafts.filter((d) => d.id !== props.draft).length
  const handOn = w.kind === 'hand-on'
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 shrink-0 border-t border-line px-6 py-2 text-[13px] max-md:px-4 max-md:gap-x-2">
      {w.kind !== 'new' && <Check name="leave it here" on={w.stay} onChange={(stay) => type({ stay })} />}
      <fieldset className="flex items-center gap-x-3">
        <legend className="sr-only">Tell me when it is</legend>
        <span aria-hidden>tell me when</span>
        <Check
          name="delivered"
          title="The mail service is asked to tell what becomes of it, where it offers that"
          on={w.notify}
          onChange={(notify) => type({ notify })}
        />
        <Check
          name="read"
          title="A receipt is asked for: their program asks them whether it may tell you"
          on={w.receipt}
          onChange={(receipt) => type({ receipt })}
        />
      </fieldset>
      {w.later && (
        <Chosen off="Send at once" onOff={props.onNoLater}>
          leaves {props.leaves ?? sends?.words ?? w.later}
        </Chosen>
      )}
      {w.kind === 'new' && (w.later || w.every) && (
        <label className="flex items-center gap-1.5">
          and again
          <input
            className="w-36 rounded-md border border-line bg-paper px-2 py-1 text-[14px]"
            placeholder="every friday"
            value={w.every ?? ''}
            aria-describedby="recurs"
            onChange={(e) => type({ every: e.target.value })}
          />
          <span id="recurs" role="status" className={again?.reading ? 'text-kelp' : 'text-buoy'}>
            {every && (again?.reading ? `✓ ${again.reading.words}` : again?.trouble)}
          </span>
        </label>
      )}
      {w.wait && (
        <Chosen off={handOn ? 'One week' : 'Don’t wait'} onOff={props.onNoWait}>
          answer by {until ?? waits?.words ?? w.wait}
        </Chosen>
      )}
      {w.track && (
        <Chosen off="No follow-up" onOff={() => type({ track: '' })}>
          follow-up: {w.track}
        </Chosen>
      )}
      {(w.wait || handOn) && w.to.length > 1 && (
        <Check
          name={`until all ${w.to.length} have answered`}
          on={w.waitAll}
          onChange={(waitAll) => type({ waitAll })}
        />
      )}
      <span className="flex-1" />
      {kept && <span className="text-ink-3 max-2xl:sr-only">kept {clock(kept)}</span>}
      {others > 0 && (
        <button
          type="button"
          className="btn btn-small btn-tight"
          onClick={props.onOthers}
          title="Letters being written (Alt O)"
        >
          <FilePen className="size-4" aria-hidden /> {others === 1 ? 'One other' : `${others} others`}
        </button>
      )}
      <button type="button" className="btn btn-small btn-tight" onClick={props.onDrop}>
        <Trash2 className="size-4" aria-hidden /> Throw away
      </button>
      <button type="button" className="btn btn-small btn-tight" onClick={leave}>
        Keep draft <span className="key max-md:hidden">Esc</span>
      </button>
    </div>
  )
}

/** Something that was chosen, and what takes it away. */
function Chosen({ off, onOff, children }: { off: string; onOff: () => void; children: ReactNode }) {
  return (
    <span className="chip max-w-60 !text-[13px]">
      <span className="truncate">{children}</span>
      <button
        type="button"
        aria-label={off}
        title={off}
        className="-mr-1 shrink-0 px-1 hover:text-buoy"
        onClick={onOff}
      >
        <X className="size-3.5" aria-hidden />
      </button>
    </span>
  )
}

function Check(props: { name: string; title?: string; on: boolean | undefined; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-2" title={props.title}>
      <input
        type="checkbox"
        className="size-4 accent-[var(--tide)]"
        checked={props.on ?? false}
        onChange={(e) => props.onChange(e.target.checked)}
      />
      {props.name}
    </label>
  )
}
