import { ImageOff, MailCheck, MailX, ShieldCheck, UserRoundX } from 'lucide-react'
import type { ReactNode } from 'react'
import { errorText, type Body, type Conversation, type Letter } from '../api/client'
import { startAgain } from '../state/answering'
import { carryOut, told } from '../state/commands'
import { failed as sayFailed } from '../state/failed'
import { dayAndClock } from '../state/time'

function Note({ icon, late, children }: { icon?: ReactNode; late?: boolean; children: ReactNode }) {
  return (
    <div
      role="note"
      className={`mt-3 flex flex-wrap items-center gap-2 rounded-lg px-3 py-1.5 text-[13px] ${late ? 'bg-lamp-2 text-lamp' : 'bg-shore text-ink-2'}`}
    >
      {icon}
      {children}
    </div>
  )
}

const count = (n: number, one: string, many: string) => (n === 1 ? `1 ${one}` : `${n} ${many}`)

/** What must be said of a letter before it is read. */
export function LetterNotes({
  letter,
  body,
  conversation,
  images,
  onImages,
}: {
  letter: Letter
  body?: Body
  conversation: Conversation
  images: boolean
  onImages: () => void
}) {
  return (
    <>
      {letter.damage && (
        <Note late>
          This letter could not be read whole: {letter.damage}. Its bytes are kept; save it as .eml to see them.
        </Note>
      )}
      {body?.posing && !letter.own && (
        <Note late icon={<UserRoundX className="size-4" aria-hidden />}>
          <span className="min-w-40 flex-1">
            <b>{letter.from.email}</b> was never written to. {body.posing.name}, whom you know by that name, is{' '}
            {body.posing.email}.
          </span>
        </Note>
      )}
      {letter.twin && <Note late>Another letter has the same Message-ID but says something else. Both are kept.</Note>}
      <Report letter={letter} conversation={conversation} />
      <Outcomes outcomes={letter.outcomes ?? []} />
      <Along progress={letter.progress ?? []} />
      {body?.seal.kind && (
        <Note icon={<ShieldCheck className="size-4" aria-hidden />}>
          {body.seal.kind === 'signed'
            ? `Signed with ${body.seal.by}. Ebbe does not verify the signature.`
            : `Encrypted with ${body.seal.by}. Ebbe can’t open it; save the letter and open it where your key is.`}
        </Note>
      )}
      <Receipt letter={letter} to={body?.receiptTo ?? []} />
      {body && <Pictures letter={letter} body={body} images={images} onImages={onImages} />}
    </>
  )
}

const steps = {
  sent: 'taken by the mail service',
  delayed: 'still being tried',
  relayed: 'passed on to a service that tells no more',
  expanded: 'passed on to the members of a list',
  delivered: 'delivered',
  failed: 'not delivered',
  read: 'read',
} as const

/** How far a letter of one's own has come, for each who gets it. */
function Along({ progress }: { progress: NonNullable<Letter['progress']> }) {
  if (progress.length === 0) return null
  const failed = progress.some((p) => p.step === 'failed')
  return (
    <Note icon={<MailCheck className="size-4" aria-hidden />} late={failed}>
      <ul className="min-w-40 flex-1">
        {progress.map((p) => (
          <li key={p.to}>
            <b>{p.to}</b> {steps[p.step]}, {dayAndClock(p.at)}
            {p.reason && (p.step === 'failed' || p.step === 'delayed') && `: ${p.reason}`}
          </li>
        ))}
      </ul>
    </Note>
  )
}

/** For whom a letter of one's own was refused, or goes again. */
function Outcomes({ outcomes }: { outcomes: NonNullable<Letter['outcomes']> }) {
  const of = (state: string) => outcomes.filter((o) => o.state === state)
  if (outcomes.length === 0) return null
  return (
    <Note icon={<MailX className="size-4" aria-hidden />} late>
      <span className="min-w-40 flex-1">
        {of('accepted').length > 0 && `It left for ${count(of('accepted').length, 'person', 'people')}. `}
        {of('refused').map((o) => (
          <span key={o.to}>
            <b>{o.to}</b> did not get it: {o.reason}.{' '}
          </span>
        ))}
        {of('again').map((o) => (
          <span key={o.to}>
            For <b>{o.to}</b> it is tried again: {o.reason}.{' '}
          </span>
        ))}
      </span>
    </Note>
  )
}

const reports = {
  failed: 'could not be delivered to',
  delayed: 'has not reached, and is still being tried,',
  delivered: 'was delivered to',
  relayed: 'was passed on for',
  expanded: 'was passed on for',
  read: 'was shown to',
  'not-read': 'was put away unread by',
} as const

function Report({ letter, conversation }: { letter: Letter; conversation: Conversation }) {
  const r = letter.report
  if (!r) return null
  const failed = r.kind === 'failed'
  return (
    <Note
      late={failed}
      icon={failed ? <MailX className="size-4" aria-hidden /> : <MailCheck className="size-4" aria-hidden />}
    >
      <span className="min-w-0 flex-1">
        Your letter {reports[r.kind]} <b>{r.recipient || 'its recipient'}</b>.{r.reason && ` ${r.reason}.`}
      </span>
      {failed && (
        <button
          className="btn btn-small text-ink"
          onClick={() =>
            void startAgain(conversation, letter.id).catch((e: unknown) =>
              sayFailed(errorText(e, 'The letter could not be drafted.')),
            )
          }
        >
          Send again…
        </button>
      )}
    </Note>
  )
}

/** Nothing is ever sent without being asked for here (RFC 8098). */
function Receipt({ letter, to }: { letter: Letter; to: string[] }) {
  const who = letter.from.name || letter.from.email
  if (letter.receipt === 'sent')
    return <Note icon={<MailCheck className="size-4" aria-hidden />}>You told {who} that you read this.</Note>
  if (letter.receipt !== 'asked') return null
  const answer = (send: boolean) => void carryOut({ path: 'receipt', id: letter.id, body: { send } }).then(told)
  return (
    <Note>
      <span className="min-w-0 flex-1">
        {who} asks to be told that you read this.
        {to.length > 0 && (
          <b className="text-buoy"> The answer would go to {to.join(', ')}, which is not the sender.</b>
        )}
      </span>
      <button className="btn btn-small" onClick={() => answer(true)}>
        Tell them
      </button>
      <button className="btn btn-small" onClick={() => answer(false)}>
        Don’t
      </button>
    </Note>
  )
}

function Pictures({
  letter,
  body,
  images,
  onImages,
}: {
  letter: Letter
  body: Body
  images: boolean
  onImages: () => void
}) {
  const { pictures, unseen, links, disguised } = body.spying
  const who = letter.from.name || letter.from.email
  const always = (load: boolean) => void carryOut({ path: 'pictures', body: { email: letter.from.email, load } })
  const left = body.blocked - unseen
  return (
    <>
      {left > 0 && !images && (
        <Note icon={<ImageOff className="size-4" aria-hidden />}>
          <span className="min-w-0 flex-1">
            {count(left, 'remote picture', 'remote pictures')} not loaded: loading tells the sender that you read this
            {pictures > unseen && `, and ${pictures - unseen} of them carry a mark of you`}.
          </span>
          <button className="btn btn-small text-[12px]" onClick={onImages}>
            Load here <span className="key">I</span>
          </button>
          {letter.from.email && (
            <button className="btn btn-small text-[12px]" onClick={() => always(true)}>
              Always from {who}
            </button>
          )}
        </Note>
      )}
      {unseen > 0 && (
        <Note icon={<ImageOff className="size-4" aria-hidden />}>
          {count(unseen, 'picture that shows nothing was', 'pictures that show nothing were')} there to tell the sender
          that you read this. {unseen === 1 ? 'It is' : 'They are'} never loaded.
        </Note>
      )}
      {body.pictures && left > 0 && (
        <Note>
          Pictures from {who} are loaded.
          <button className="btn btn-small text-[12px]" onClick={() => always(false)}>
            No longer
          </button>
        </Note>
      )}
      {links > 0 && (
        <Note>
          {count(links, 'link tells', 'links tell')} the sender who followed. Where that could be taken out, it was.
        </Note>
      )}
      {disguised > 0 && (
        <Note late>
          {count(disguised, 'link shows another address than it leads', 'links show other addresses than they lead')}{' '}
          to; the true one stands behind it.
        </Note>
      )}
    </>
  )
}
