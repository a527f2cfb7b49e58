import { useQuery } from '@tanstack/react-query'
import { Copy, Download, FileUp, Mailbox } from 'lucide-react'
import { useRef, useState } from 'react'
import { toast } from '../state/toast'
import { api, take } from '../api/client'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { carryOut, told } from '../state/commands'

const formats = [
  ['ics', 'iCalendar', 'everything but stages’ colours'],
  ['csv', 'CSV, for a spreadsheet', 'everything'],
  ['txt', 'todo.txt', 'no notes, checklists, reminders or letters'],
] as const

/** Follow-ups as files, in and out, and the address that takes them by mail. */
export function TaskFilesDialog(props: { text?: string; onClose: () => void }) {
  const [text, setText] = useState(props.text ?? '')
  return (
    <Dialog
      wide
      title={text ? 'Bring follow-ups in' : 'Follow-ups in and out'}
      icon={<FileUp className="size-5 text-tide" aria-hidden />}
      onClose={props.onClose}
    >
      {text ? (
        <Preview text={text} onBack={() => setText('')} onClose={props.onClose} />
      ) : (
        <>
          <h3 className="pb-1 text-[14px] font-semibold">Out</h3>
          <div className="flex flex-wrap gap-2 pb-4">
            {formats.map(([f, name, what]) => (
              <a key={f} className="btn" href={`/api/tasks/file?format=${f}`} download title={what}>
                <Download className="size-4" aria-hidden /> {name}
              </a>
            ))}
          </div>
          <h3 className="pb-1 text-[14px] font-semibold">In</h3>
          <Choose onText={setText} />
          <h3 className="pt-4 pb-1 text-[14px] font-semibold">By mail</h3>
          <Intake />
          <h3 className="pt-4 pb-1 text-[14px] font-semibold">Appointments for other calendars</h3>
          <Feed />
          <DialogFoot>
            <button className="btn" onClick={props.onClose}>
              Close <span className="key">Esc</span>
            </button>
          </DialogFoot>
        </>
      )}
    </Dialog>
  )
}

function Choose({ onText }: { onText: (text: string) => void }) {
  const file = useRef<HTMLInputElement>(null)
  const [typed, setTyped] = useState('')
  return (
    <div className="grid gap-2">
      <input
        ref={file}
        type="file"
        accept=".ics,.ical,.csv,.tsv,.txt,text/calendar,text/csv,text/plain"
        className="hidden"
        onChange={(e) => void e.target.files?.[0]?.text().then(onText)}
      />
      <div className="flex flex-wrap gap-2">
        <button className="btn" autoFocus onClick={() => file.current?.click()}>
          Choose a file…
        </button>
        <span className="self-center text-[13px] text-ink-3">
          .ics, .csv or todo.txt; what would be made is shown first
        </span>
      </div>
      <textarea
        aria-label="Or paste it here"
        placeholder="Or paste it here"
        className="field min-h-16 font-mono !text-[13px]"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
      />
      {typed.trim() && (
        <button className="btn justify-self-start" onClick={() => onText(typed)}>
          Look at it
        </button>
      )}
    </div>
  )
}

function Preview({ text, onBack, onClose }: { text: string; onBack: () => void; onClose: () => void }) {
  const { data, error } = useQuery({
    queryKey: ['task-preview', text],
    queryFn: () => take(api.POST('/api/tasks/preview', { body: { data: text } })),
    retry: false,
    gcTime: 0,
  })
  const bring = () => {
    onClose()
    void carryOut({ path: 'import-follow-ups', body: { data: text } }).then(told)
  }
  return (
    <>
      {error && <p className="text-buoy">{error.message}</p>}
      {!data && !error && <div aria-busy className="h-32 animate-pulse rounded-[14px] bg-shore-2" />}
      {data && (
        <div className="min-h-0 overflow-y-auto">
          <p className="pb-2" role="status">
            <b>{data.count}</b> would be made
            {data.events > 0 && `, and ${data.events} appointments`}
            {data.waits > 0 &&
              `; ${data.waits === 1 ? '1 link to a letter that is not here waits' : `${data.waits} links to letters that are not here wait`} until it comes`}
            {data.known > 0 && `; ${data.known} are here already and stay as they are`}
            {data.troubles.length > 0 && `; ${data.troubles.length} can’t be read`}.
          </p>
          {data.troubles.length > 0 && (
            <ul className="mb-2 rounded-[12px] bg-buoy-2 px-3 py-2 text-[13px] text-buoy">
              {data.troubles.map((t, i) => (
                <li key={i}>
                  {t.line > 0 && `Line ${t.line}: `}
                  {t.what}
                  {t.text && <span className="block truncate text-ink-2">{t.text}</span>}
                </li>
              ))}
            </ul>
          )}
          <ul className="text-[13px]">
            {data.new.map((t, i) => (
              <li key={i} className="flex gap-3 border-t border-line py-1 first:border-t-0">
                <span className="min-w-0 flex-1 truncate">{t.title}</span>
                <span className="text-ink-3">{t.project}</span>
                {t.priority !== 'normal' && <span>{t.priority}</span>}
                <span className="w-28 shrink-0 text-right text-ink-2">{t.status === 'done' ? 'done' : t.due}</span>
              </li>
            ))}
          </ul>
          {data.count > data.new.length && <p className="text-ink-3">and {data.count - data.new.length} more</p>}
        </div>
      )}
      <DialogFoot>
        <button className="btn" onClick={onBack}>
          Another file
        </button>
        {data && data.count + data.events > 0 && (
          <button className="btn btn-main" autoFocus onClick={bring}>
            Make {data.count} {data.count === 1 ? 'follow-up' : 'follow-ups'}
            {data.events > 0 && ` and ${data.events} ${data.events === 1 ? 'appointment' : 'appointments'}`}{' '}
            <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Enter</span>
          </button>
        )}
      </DialogFoot>
    </>
  )
}

function Feed() {
  const { data } = useQuery({ queryKey: ['settings', 'feed'], queryFn: () => take(api.GET('/api/feed')) })
  const renew = (remove?: boolean) => void carryOut({ path: 'renew-feed', body: { remove } }).then(told)
  if (!data) return <div aria-busy className="h-10 animate-pulse rounded-[14px] bg-shore-2" />
  if (!data.path)
    return (
      <p className="flex flex-wrap items-center gap-2 text-[13px] text-ink-2">
        A private address at which another calendar can read your appointments, but nobody can change them.
        <button className="btn" onClick={() => renew()}>
          Make a calendar address
        </button>
      </p>
    )
  return (
    <p className="flex flex-wrap items-center gap-2 text-[13px]">
      <code className="rounded bg-shore px-2 py-1 break-all select-all">{location.origin + data.path}</code>
      <button className="btn btn-small" onClick={() => renew()}>
        A new one
      </button>
      <button className="btn btn-small" onClick={() => renew(true)}>
        Take it away
      </button>
    </p>
  )
}

function Intake() {
  const { data } = useQuery({ queryKey: ['settings', 'intake'], queryFn: () => take(api.GET('/api/intake')) })
  const renew = () => void carryOut({ path: 'renew-follow-intake', body: {} }).then(told)
  if (!data) return <div aria-busy className="h-16 animate-pulse rounded-[14px] bg-shore-2" />
  if (!data.address)
    return (
      <p className="flex flex-wrap items-center gap-2 text-[13px] text-ink-2">
        An address of your own, which nobody can guess: what you forward to it becomes a follow-up.
        <button className="btn" onClick={renew}>
          Make the address
        </button>
      </p>
    )
  return (
    <div className="grid gap-2 text-[13px]">
      <p className="flex flex-wrap items-center gap-2">
        <Mailbox className="size-4 text-tide" aria-hidden />
        <code className="rounded bg-shore px-2 py-1 break-all select-all">{data.address}</code>
        <button
          className="btn btn-small"
          onClick={() => void navigator.clipboard.writeText(data.address).then(() => toast('The address is copied'))}
        >
          <Copy className="size-3.5" aria-hidden /> Copy
        </button>
        <button className="btn btn-small" onClick={renew}>
          A new one
        </button>
      </p>
      <p className="text-ink-2">
        Forwarded letters become follow-ups, with the letter and its sender. A letter to an address that names a time
        comes back to the inbox at that time:{' '}
        {data.times.map((t) => (
          <code key={t} className="mr-2" title={t}>
            {t.split('@')[0]}@…
          </code>
        ))}
      </p>
    </div>
  )
}
