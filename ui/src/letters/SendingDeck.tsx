import { Clock, Eye, FilePen, Hourglass, ListChecks, Send, Trash2, X } from 'lucide-react'
import type { ReactNode } from 'react'
import type { Writing } from '../api/client'
import { useDrafts, usePhrase } from '../api/queries'
import { keptAt, leave, type } from '../state/writing'
import { clock } from '../state/time'

const plain = { plain: true } as const

/** What can be done with a letter that is being written: large keys, each of which says what
 * it would do now. */
export function SendingDeck(props: {
  w: Writing
  draft: string
  until: string | undefined
  holding: boolean
  seen: boolean
  onWait: () => void
  leaves: string | undefined
  onLater: () => void
  onNoLater: () => void
  onTrack: () => void
  onNoWait: () => void
  onSeen: () => void
  onOthers: () => void
  onDrop: () => void
}) {
  const { w, until } = props
  const waits = usePhrase(w.wait ?? '', plain, Boolean(w.wait) && !until).data?.reading
  const sends = usePhrase(w.later ?? '', plain, Boolean(w.later) && !props.leaves).data?.reading
  const { data: drafts = [] } = useDrafts()
  const kept = keptAt.use()
  const others = drafts.filter((d) => d.id !== props.draft).length
  const handOn = w.kind === 'hand-on'
  return (
    <div className="shrink-0 border-t border-line px-4 pt-2 pb-2.5 max-md:px-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-2 pb-2 text-[13px] max-md:gap-x-2">
        {w.kind !== 'new' && <Check name="leave it here" on={w.stay} onChange={(stay) => type({ stay })} />}
        <Check
          name="ask for a receipt"
          title="Their program asks them whether it may tell you"
          on={w.receipt}
          onChange={(receipt) => type({ receipt })}
        />
        {w.later && (
          <Chosen off="Send at once" onOff={props.onNoLater}>
            leaves {props.leaves ?? sends?.words ?? w.later}
          </Chosen>
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
        {kept && <span className="text-ink-3 max-md:hidden">kept {clock(kept)}</span>}
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
      <div role="toolbar" aria-label="Sending" className="flex gap-1.5 max-md:grid max-md:grid-cols-5">
        <Key
          submit
          icon={<Send />}
          edge="border-b-deep"
          name={props.holding ? 'Waits for its files' : handOn ? 'Hand on' : 'Send'}
          hint={
            w.kind === 'answer' && !w.stay
              ? 'and archive'
              : handOn && !w.stay
                ? 'and wait for an answer'
                : w.later
                  ? 'at its time'
                  : 'now'
          }
          press="Ctrl ↵"
          main
        />
        <Key
          icon={<Clock className="text-lamp" />}
          edge="border-b-lamp"
          name={w.later ? 'Leaves' : 'Send later'}
          hint={w.later ? 'another time…' : 'at a time…'}
          press="Alt L"
          onClick={props.onLater}
        />
        <Key
          icon={<Hourglass className="text-heather" />}
          edge="border-b-heather"
          name={w.wait || handOn ? 'Waits' : 'Wait'}
          hint={
            w.wait
              ? `answer by ${until ?? waits?.words ?? w.wait}`
              : handOn
                ? 'one week for an answer'
                : 'for an answer…'
          }
          press="Alt W"
          onClick={props.onWait}
        />
        <Key
          icon={<ListChecks className="text-buoy" />}
          edge="border-b-buoy"
          name="Follow up"
          hint={w.track ? 'another…' : 'what is to be done…'}
          press="Alt F"
          onClick={props.onTrack}
        />
        <Key
          icon={<Eye className="text-ink-2" />}
          edge="border-b-ink-2"
          name={props.seen ? 'Write on' : 'Preview'}
          hint={props.seen ? 'back to the text' : 'as they see it'}
          press="Alt V"
          onClick={props.onSeen}
        />
      </div>
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

function Key(props: {
  icon: ReactNode
  edge: string
  name: string
  hint: string
  press: string
  submit?: boolean
  main?: boolean
  onClick?: () => void
}) {
  return (
    <button
      type={props.submit ? 'submit' : 'button'}
      onClick={props.onClick}
      title={`${props.hint} (${props.press})`}
      className={`flex min-h-[48px] min-w-0 flex-1 items-center gap-2 rounded-[12px] border border-b-2 px-2.5 text-left max-md:flex-col max-md:justify-center max-md:gap-0.5 max-md:px-1 max-md:text-center ${props.main ? 'border-deep bg-deep text-on-deep hover:brightness-110' : `border-line bg-paper hover:bg-tide-3 ${props.edge}`}`}
    >
      <span className="shrink-0 [&_svg]:size-5 max-md:[&_svg]:size-4" aria-hidden>
        {props.icon}
      </span>
      <span className="min-w-0 flex-1">
        <span className="block truncate text-[14px] leading-tight font-semibold max-md:text-[13px]">{props.name}</span>
        <span className="flex items-center gap-1.5 max-md:hidden">
          <span
            className={`key !h-[18px] shrink-0 ${props.main ? '!border-on-deep/30 !bg-transparent !text-on-deep' : ''}`}
          >
            {props.press}
          </span>
          <span className={`min-w-0 truncate text-[12px] leading-tight ${props.main ? 'opacity-80' : 'text-ink-3'}`}>
            {props.hint}
          </span>
        </span>
      </span>
    </button>
  )
}
