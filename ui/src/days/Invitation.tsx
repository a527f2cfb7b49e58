import { part } from '../kit/part'
import { CalendarDays } from 'lucide-react'
import { useState } from 'react'
import type { Letter } from '../api/client'
import { appointing } from '../state/appointing'
import { carryOut, told } from '../state/commands'

const PhraseDialog = part(() => import('./PhraseDialog').then((m) => m.PhraseDialog))

const words: Record<string, string> = { accepted: 'accepted', declined: 'declined', tentative: 'left open' }

/** The appointment that a letter holds, with what can be said to it. */
export function Invitation({ letter }: { letter: Letter }) {
  const [proposing, setProposing] = useState(false)
  const i = letter.body?.invitation
  if (!i) return null
  const answer = (reply: 'accepted' | 'declined' | 'tentative', propose?: string) =>
    void carryOut({
      path: 'answer-invitation',
      id: letter.id,
      body: { reply, ...(propose ? { propose } : {}) },
    }).then(told)
  const answerable = i.kind === 'invitation' && !i.old && !letter.own
  return (
    <section
      aria-label="Appointment"
      className="mt-3 grid gap-2 rounded-[12px] border border-line bg-heather-2/40 px-3 py-2 text-[14px]"
    >
      <div className="flex items-start gap-3">
        <CalendarDays className="mt-0.5 size-5 shrink-0 text-heather" aria-hidden />
        <div className="min-w-0 flex-1">
          <p className="font-semibold">{i.kind === 'cancelled' ? <s>{i.title}</s> : i.title}</p>
          <p className="text-ink-2">
            {i.kind === 'answer' ? i.answer : i.words}
            {i.place && ` · ${i.place}`}
          </p>
          {i.oneOf && <p className="text-[13px] text-ink-2">One of a series: {i.oneOf}</p>}
          {i.recurs && i.kind !== 'answer' && (
            <p className="text-[13px] text-ink-2">
              It comes again {i.recurs}
              {i.next && i.next.length > 0 && ` · next: ${i.next.join(', ')}`}
            </p>
          )}
          {i.zone && (
            <p className="text-[13px] text-lamp">
              The zone “{i.zone}” isn’t known here: the times are read as yours. Ask before you rely on them.
            </p>
          )}
          {i.clash && i.kind === 'invitation' && (
            <p className="text-[13px] text-lamp">At that time there is also: {i.clash}</p>
          )}
          {i.old && <p className="text-[13px] text-ink-3">A newer invitation has come since.</p>}
          {i.kind === 'cancelled' && <p className="text-[13px] text-buoy">It has been called off.</p>}
          {i.moved && !i.old && (
            <p className="text-[13px] text-lamp">It has been moved since you answered: say whether it still suits.</p>
          )}
          {i.reply && words[i.reply] && <p className="text-[13px] text-kelp">You have {words[i.reply]} it.</p>}
        </div>
        {i.appointment ? (
          <button className="btn btn-small" onClick={() => appointing.set({ id: i.appointment })}>
            Open
          </button>
        ) : null}
      </div>
      {answerable && (
        <div className="flex flex-wrap gap-2">
          <button className="btn" onClick={() => answer('accepted')}>
            Accept
          </button>
          <button className="btn" onClick={() => answer('declined')}>
            Decline
          </button>
          <button className="btn" onClick={() => answer('tentative')}>
            Perhaps
          </button>
          <button className="btn" onClick={() => setProposing(true)}>
            Propose another time…
          </button>
        </div>
      )}
      {i.kind === 'event' && !i.appointment && !letter.own && (
        <button className="btn justify-self-start" onClick={() => answer('accepted')}>
          Keep the appointment
        </button>
      )}
      {proposing && (
        <PhraseDialog
          title="Propose another time"
          hint={i.title}
          label="Another time"
          placeholder="mon 13 to 14"
          about={{ plain: true, as: 'span' }}
          onClose={() => setProposing(false)}
          onTake={(p) => {
            setProposing(false)
            answer('tentative', p.phrase)
          }}
        />
      )}
    </section>
  )
}
