import { Clock, Eye, Hourglass, ListChecks, Send } from 'lucide-react'
import type { ReactNode } from 'react'
import type { Writing } from '../api/client'

/** The sending deck: what can be done with a letter that is being written, as large keys,
 * each of which says what it would do now, where there is room beside its shortcut. */
export function SendingDeck(props: {
  w: Writing
  /** The form that is sent. */
  form: string
  holding: boolean
  seen: boolean
  onWait: () => void
  onLater: () => void
  onTrack: () => void
  onSeen: () => void
}) {
  const { w } = props
  const handOn = w.kind === 'hand-on'
  return (
    <div className="@container shrink-0">
      <div role="toolbar" aria-label="Sending" className="flex gap-1.5 pt-2.5 max-md:grid max-md:grid-cols-5">
        <Key
          form={props.form}
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
          hint={w.wait ? 'another time…' : handOn ? 'one week for an answer' : 'for an answer…'}
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

function Key(props: {
  icon: ReactNode
  edge: string
  name: string
  hint: string
  press: string
  /** The form that it sends. */
  form?: string
  main?: boolean
  onClick?: () => void
}) {
  return (
    <button
      type={props.form ? 'submit' : 'button'}
      form={props.form}
      onClick={props.onClick}
      title={`${props.hint} (${props.press})`}
      className={`flex min-h-[52px] max-md:min-h-[48px] min-w-0 flex-1 items-center gap-2 rounded-[12px] border border-b-2 px-2.5 text-left max-md:flex-col max-md:justify-center max-md:gap-0.5 max-md:px-1 max-md:text-center ${props.main ? 'border-deep bg-deep text-on-deep hover:brightness-110' : `border-line bg-paper hover:bg-tide-3 ${props.edge}`}`}
    >
      <span className="shrink-0 [&_svg]:size-5 max-md:[&_svg]:size-4" aria-hidden>
        {props.icon}
      </span>
      <span className="min-w-0 flex-1">
        <span className="flex items-center gap-x-1 @max-4xl:flex-wrap">
          <span className="min-w-0 flex-1 truncate text-[14.5px] leading-tight font-semibold @max-4xl:basis-full max-md:text-[13px]">
            {props.name}
          </span>
          <span
            className={`key shrink-0 max-md:hidden ${props.main ? '!border-on-deep/30 !bg-transparent !text-on-deep' : ''}`}
          >
            {props.press}
          </span>
        </span>
        <span
          className={`block truncate text-[12.5px] leading-tight @max-4xl:hidden max-md:hidden ${props.main ? 'opacity-80' : 'text-ink-3'}`}
        >
          {props.hint}
        </span>
      </span>
    </button>
  )
}
