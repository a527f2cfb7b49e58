import { Link } from '@tanstack/react-router'
import { ArrowLeft, ArrowRight, Download, Eraser, Pencil, PenLine, Search, Trash2 } from 'lucide-react'
import { useState, type ReactNode } from 'react'
import type { Correspondent, Wait } from '../api/client'
import { useCorrespondent } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { carryOut, told } from '../state/commands'
import { letThrough } from '../state/gate'
import { ContactDialog } from './ContactDialog'
import { EraseDialog } from './EraseDialog'

const waits: Record<Wait['kind'], string> = {
  undecided: 'waits for your decision',
  later: 'put off',
  answer: 'owes you an answer',
  'follow-up': 'follow-up',
  meeting: 'you meet',
}

const settled: Record<Correspondent['settled'][number]['kind'], string> = {
  away: 'is turned away: straight to the bin',
  junk: 'always goes to Junk',
  wanted: 'never goes to Junk',
  left: 'was asked to send no more',
  person: 'counts as a person',
  receipts: 'goes to receipts',
  notices: 'goes to notices',
  reading: 'goes to reading',
  meetings: 'goes to meetings',
  copies: 'goes to copies',
}

/** All that is known of somebody: letters both ways, what waits, what becomes of what they send. */
export function PersonPage(props: { address: string; onBecame: (address: string) => void; onErased: () => void }) {
  const { address, onBecame } = props
  const { data: p, isError, error, refetch } = useCorrespondent(address)
  const [writing, setWriting] = useState(false)
  const [erasing, setErasing] = useState(false)
  if (isError && !p) return <CouldNotRead what="That person" error={error} again={() => void refetch()} />
  if (!p) return <div aria-busy className="m-4 h-60 animate-pulse rounded-[14px] bg-shore-2" />
  const key = p.through.find((t) => t.key)
  const contact = p.contact
  return (
    <article aria-label={p.name} className="px-5 pt-4 pb-6 max-md:px-3">
      <header className="border-b-2 border-deep pb-3">
        <h2 className="text-[24px] leading-tight font-bold break-words">
          {p.name} {p.you && <span className="chip align-middle">that is you</span>}
        </h2>
        {(contact?.org || contact?.phones.length) && (
          <p className="text-[14px] text-ink-2">
            {contact.org}
            {contact.phones.map((t, i) => (
              <span key={t}>
                {(contact.org || i > 0) && ' · '}
                <a className="hover:underline" href={`tel:${t.replace(/[^+\d]/g, '')}`}>
                  {t}
                </a>
              </span>
            ))}
          </p>
        )}
        <ul aria-label="Addresses" className="pt-1 text-[14px]">
          {p.addresses.map((a) => (
            <li key={a.email} className="flex flex-wrap items-baseline gap-x-2">
              <span className="font-medium break-all">{a.email}</span>
              <span className="text-[13px] text-ink-3">
                {a.received + a.sent === 0
                  ? 'no letters yet'
                  : `${a.received} from them, ${a.sent} to them, last ${a.last}`}
              </span>
            </li>
          ))}
        </ul>
        <div className="flex flex-wrap gap-1.5 pt-2.5">
          <Link
            className="btn btn-small btn-main"
            to="/write"
            search={{ mailto: `mailto:${encodeURIComponent(address)}` }}
          >
            <PenLine className="size-3.5" aria-hidden /> Write to them
          </Link>
          <Link className="btn btn-small" to="/search" search={{ q: p.q }}>
            <Search className="size-3.5" aria-hidden /> All letters
          </Link>
          <button className="btn btn-small" onClick={() => setWriting(true)}>
            <Pencil className="size-3.5" aria-hidden /> {contact ? 'Change' : 'Write down'}
          </button>
          {contact && (
            <>
              <a className="btn btn-small" href={`/api/contacts/file?id=${contact.id}`} download>
                <Download className="size-3.5" aria-hidden /> vCard
              </a>
              <button
                className="btn btn-small"
                onClick={() => void carryOut({ path: 'drop-contact', id: contact.id, body: {} }).then(told)}
              >
                <Trash2 className="size-3.5" aria-hidden /> Forget what is written down
              </button>
            </>
          )}
          {!p.you && (
            <button className="btn btn-small" onClick={() => setErasing(true)}>
              <Eraser className="size-3.5 text-buoy" aria-hidden /> Erase them…
            </button>
          )}
        </div>
      </header>
      <div className="grid gap-x-8 gap-y-4 pt-4 xl:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
        <Part name="Between you">
          {p.letters.length === 0 && <p className="text-ink-2">No letters yet.</p>}
          <ol>
            {p.letters.map((l, i) => (
              <li key={i}>
                <Link
                  to="/letter/$id"
                  params={{ id: String(l.conversation) }}
                  className="flex items-baseline gap-2 border-b border-line py-1 hover:bg-tide-3"
                >
                  {l.own ? (
                    <ArrowRight className="size-3.5 shrink-0 self-center text-tide" aria-label="to them" />
                  ) : (
                    <ArrowLeft className="size-3.5 shrink-0 self-center text-lamp" aria-label="from them" />
                  )}
                  <span className={`min-w-0 flex-1 truncate ${l.own ? 'text-ink-2' : ''}`}>
                    {l.subject || '(no subject)'}
                  </span>
                  <span className="shrink-0 text-[13px] text-ink-3">{l.at}</span>
                </Link>
              </li>
            ))}
          </ol>
          {(p.mine || p.theirs) && (
            <p className="pt-2 text-[13px] text-ink-2">
              {p.theirs && <>They answer within {p.theirs}. </>}
              {p.mine && <>You answer within {p.mine}.</>}
            </p>
          )}
        </Part>
        <div className="grid min-w-0 grid-cols-[minmax(0,1fr)] content-start gap-4">
          <Part name="What waits">
            {p.waits.length === 0 && <p className="text-ink-2">Nothing is open between you.</p>}
            <ul>
              {p.waits.map((w, i) => (
                <li key={i} className="border-b border-line py-1">
                  <Waits wait={w} />
                </li>
              ))}
            </ul>
          </Part>
          <Part name="Their letters">
            <ul className="grid grid-cols-[minmax(0,1fr)] gap-1.5 text-[14px]">
              {p.through.map((t) => (
                <Line key={`t${t.id}`} end={() => carryOut({ path: 'end-through', id: t.id, body: {} })} of={t.words}>
                  {t.key ? 'A key person: ' : 'Let through: '}
                  {t.words}
                  {t.until && `, until ${t.until}`}
                </Line>
              ))}
              {p.settled.map((c) => (
                <Line key={`c${c.id}`} end={() => carryOut({ path: 'end-correction', id: c.id, body: {} })} of={c.of}>
                  {c.of} {settled[c.kind]}
                  {c.took ? `, ${c.took} so far` : ''}
                </Line>
              ))}
              {p.learned && (
                <li>
                  Of {p.learned.letters} letters you answered, followed up or handed on {p.learned.acted}
                  {p.learned.facts.length > 1 && ` (${p.learned.facts.join(', ')})`}.
                </li>
              )}
              {p.groups.length > 0 && <li>In {p.groups.join(', ')}.</li>}
              {!key && !p.you && (
                <li>
                  <button className="btn btn-small" onClick={() => letThrough(address)}>
                    Make them a key person
                  </button>
                </li>
              )}
            </ul>
          </Part>
          {contact?.note && (
            <Part name="Your note">
              <p className="serif break-words whitespace-pre-wrap">{contact.note}</p>
            </Part>
          )}
        </div>
      </div>
      {erasing && (
        <EraseDialog
          address={address}
          onClose={() => setErasing(false)}
          onErased={() => {
            setErasing(false)
            props.onErased()
          }}
        />
      )}
      {writing && (
        <ContactDialog
          contact={contact}
          name={p.name === address ? '' : p.name}
          address={address}
          onClose={() => setWriting(false)}
          onDone={(now) => {
            setWriting(false)
            if (now) onBecame(now)
          }}
        />
      )}
    </article>
  )
}

function Part(props: { name: string; children: ReactNode }) {
  return (
    <section aria-label={props.name}>
      <h3 className="pb-1 text-[13px] font-semibold text-ink-2">{props.name}</h3>
      {props.children}
    </section>
  )
}

function Waits({ wait: w }: { wait: Wait }) {
  const says = (
    <>
      <span className="block truncate">{w.title || '(no subject)'}</span>
      <span className={`text-[13px] ${w.late ? 'text-buoy' : 'text-ink-3'}`}>
        {waits[w.kind]}
        {w.says && ` · ${w.says}`}
      </span>
    </>
  )
  if (w.followUp)
    return (
      <Link className="block hover:bg-tide-3" to="/follow-ups" search={{ open: w.followUp }}>
        {says}
      </Link>
    )
  if (!w.conversation) return says
  return (
    <Link className="block hover:bg-tide-3" to="/letter/$id" params={{ id: String(w.conversation) }}>
      {says}
    </Link>
  )
}

function Line(props: { children: ReactNode; of: string; end: () => ReturnType<typeof carryOut> }) {
  return (
    <li className="flex items-baseline gap-2">
      <span className="min-w-0 flex-1 break-words">{props.children}</span>
      <button className="btn btn-small" aria-label={`End for ${props.of}`} onClick={() => void props.end().then(told)}>
        End
      </button>
    </li>
  )
}
