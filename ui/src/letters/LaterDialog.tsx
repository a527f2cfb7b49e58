import { Clock } from 'lucide-react'
import { useState } from 'react'
import type { Proposal } from '../api/client'
import { useSpread, useTell, type PhraseFor } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { Insteads } from './Insteads'
import { LoadStrip } from '../days/LoadStrip'
import { PhraseBox } from '../days/PhraseBox'
import { useOnline } from '../state/online'
import type { Instead } from '../state/again'

/** Asks when letters come back. */
export function LaterDialog(props: {
  title?: string
  hint: string
  putOffs?: number
  /** Whether to ask before it is put off once more. */
  often?: boolean
  initial?: string
  first?: Proposal[]
  about?: PhraseFor
  /** The conversations, where several can be spread over days. */
  spread?: number[]
  /** Whose letters they are, where the senders can be told when to expect an answer. */
  sender?: string
  onTake: (phrase: Proposal, tell?: string) => void
  onSpread?: (each: { id: number; phrase: string }[]) => void
  onInstead?: (what: Instead) => void
  onClose: () => void
}) {
  const [taken, setTaken] = useState<Proposal>()
  const [tells, setTells] = useState(false)
  const [telling, setTelling] = useState<Proposal>()
  const [over, setOver] = useState<'week' | 'next-week' | 'two-weeks'>()
  const chosen = (p: Proposal) => (tells && p.at ? setTelling(p) : props.onTake(p))
  const online = useOnline() // what the server must work out first is not offered without it
  const asks = props.often && props.onInstead
  return (
    <Dialog
      title={props.title ?? 'Later: bring it back'}
      hint={props.hint}
      icon={<Clock className="size-5 text-lamp" aria-hidden />}
      onClose={props.onClose}
    >
      {(props.putOffs ?? 0) > 0 && (
        <p className="chip mb-2 shrink-0 self-start !bg-lamp-2 !text-lamp">
          put off {props.putOffs === 1 ? 'once' : props.putOffs === 2 ? 'twice' : `${props.putOffs} times`} already
        </p>
      )}
      {telling ? (
        <Tell on={props.spread ?? []} at={telling} onTake={(text) => props.onTake(telling, text)} />
      ) : taken ? (
        <Question taken={taken} putOffs={props.putOffs ?? 0} onInstead={props.onInstead} onTake={chosen} />
      ) : over && props.spread ? (
        <Spread on={props.spread} over={over} onOver={setOver} onTake={props.onSpread} />
      ) : (
        <PhraseBox
          label="When should it come back?"
          initial={props.initial}
          first={props.first}
          about={props.about}
          placeholder={props.about?.for ? 'Try “3d”, “end of month”, “when she answers”' : undefined}
          onTake={(p) => (asks ? setTaken(p) : chosen(p))}
        />
      )}
      <DialogFoot>
        {online && !taken && !over && props.spread && props.spread.length > 1 && (
          <button type="button" className="btn mr-auto" onClick={() => setOver('week')}>
            Spread over days…
          </button>
        )}
        {online && props.sender && !taken && !over && !telling && (
          <label className="mr-auto flex items-center gap-2 text-[13px] text-ink-2">
            <input
              type="checkbox"
              className="size-4 accent-[var(--tide)]"
              checked={tells}
              onChange={(e) => setTells(e.target.checked)}
            />
            Tell {props.sender} when to expect an answer
          </label>
        )}
        <span className="text-[13px] text-ink-2">
          {!telling && !taken && (
            <>
              <span className="key">Enter</span> put off{' '}
            </>
          )}
          <span className="key ml-2">Esc</span> keep here
        </span>
      </DialogFoot>
    </Dialog>
  )
}

/** Before the third put-off: what would settle it. */
function Question(props: {
  taken: Proposal
  putOffs: number
  onInstead?: (what: Instead) => void
  onTake: (p: Proposal) => void
}) {
  return (
    <div>
      <p className="pb-2">You have put this off {props.putOffs} times. Would one of these settle it?</p>
      <Insteads onInstead={props.onInstead} />
      <button className="btn mt-3 w-full" onClick={() => props.onTake(props.taken)}>
        Later all the same: {props.taken.words}
      </button>
    </div>
  )
}

/** The note to whoever waits for an answer, before it goes. */
function Tell(props: { on: number[]; at: Proposal; onTake: (text: string | undefined) => void }) {
  const { data, error } = useTell(props.on, props.at.phrase)
  const [typed, setTyped] = useState<string>()
  const text = typed ?? data?.text ?? ''
  const to = data?.to ?? []
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault()
        props.onTake(text)
      }}
      onKeyDown={(e) => {
        if (e.key === 'Enter' && (e.ctrlKey || e.metaKey) && to.length > 0 && text.trim()) props.onTake(text)
      }}
    >
      {error && <p className="pb-2 text-buoy">{error.message}</p>}
      {data && (
        <div className="pb-2 text-[13px]" role="status">
          {to.length > 0 && (
            <p>
              Goes to <b>{to.join(', ')}</b>, marked as an automatic answer, a moment after you put the letter off.
            </p>
          )}
          {data.not.map((n) => (
            <p key={n.name + n.why} className="text-ink-2">
              Not to {n.name}: {n.why}.
            </p>
          ))}
        </div>
      )}
      {!data && !error && <div aria-busy className="h-32 animate-pulse rounded-[14px] bg-shore-2" />}
      {to.length > 0 && (
        <textarea
          autoFocus
          aria-label="The note"
          className="field serif min-h-44"
          value={text}
          maxLength={9000}
          onChange={(e) => setTyped(e.target.value)}
        />
      )}
      <div className="flex flex-wrap gap-2 pt-3">
        {to.length > 0 && (
          <button className="btn btn-main" disabled={!text.trim()}>
            Put off until {props.at.words} and tell {to.length === 1 ? to[0] : `${to.length} senders`}{' '}
            <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Ctrl ↵</span>
          </button>
        )}
        {(data || error) && (
          <button type="button" autoFocus={to.length === 0} className="btn" onClick={() => props.onTake(undefined)}>
            Put off and tell nobody
          </button>
        )}
      </div>
    </form>
  )
}

const spans = [
  ['week', 'this week'],
  ['next-week', 'next week'],
  ['two-weeks', 'two weeks'],
] as const

/** A preview of several letters over several days. */
function Spread(props: {
  on: number[]
  over: (typeof spans)[number][0]
  onOver: (over: (typeof spans)[number][0]) => void
  onTake?: (each: { id: number; phrase: string }[]) => void
}) {
  const { data, error, isPending } = useSpread(props.on, props.over)
  return (
    <div>
      <div role="radiogroup" aria-label="Spread over" className="flex gap-1.5 pb-3">
        {spans.map(([value, name]) => (
          <button
            key={value}
            role="radio"
            aria-checked={props.over === value}
            autoFocus={value === 'week'}
            className={`btn ${props.over === value ? 'btn-main' : ''}`}
            onClick={() => props.onOver(value)}
          >
            {name}
          </button>
        ))}
      </div>
      {isPending && !error && <div aria-busy className="h-32 animate-pulse rounded-[14px] bg-shore-2" />}
      {error && <p className="text-buoy">{error.message}</p>}
      {data && (
        <>
          <LoadStrip days={data.days} />
          <ul className="pb-3 text-[13px]">
            {data.days
              .filter((d) => d.count > 0)
              .map((d) => (
                <li key={d.date}>
                  <b>{d.label}</b>: {d.count} {d.count === 1 ? 'letter' : 'letters'}
                  {d.over && <span className="text-buoy"> · over-full</span>}
                </li>
              ))}
          </ul>
          <button className="btn btn-main w-full" onClick={() => props.onTake?.(data.each)}>
            Put off {props.on.length} letters over {data.days.filter((d) => d.count > 0).length} days
          </button>
        </>
      )}
    </div>
  )
}
