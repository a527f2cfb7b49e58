import { Download, Upload as UploadIcon } from 'lucide-react'
import { useRef, useState, type ReactNode } from 'react'
import { Link } from '@tanstack/react-router'
import { useQuery } from '@tanstack/react-query'
import { api, errorText, take, type ImportView } from '../api/client'
import { useLabels } from '../api/queries'
import { undo } from '../state/commands'
import { chosen, filesOf, stopImport, takeIn, upload } from '../state/files'
import { useKeys } from '../state/keys'
import { size, stamp } from '../state/time'
import { failed } from '../state/failed'

/** Letters in and out of Ebbe, as files. */
export function FilesView() {
  useKeys({ undo: () => void undo() })
  return (
    <main className="mx-auto min-h-0 w-full max-w-5xl flex-1 overflow-y-auto px-4 pb-6" aria-label="Letters in and out">
      <h1 className="py-2 text-[20px] font-bold">Letters in and out</h1>
      <div className="grid gap-8 md:grid-cols-[3fr_2fr]">
        <In />
        <Out />
      </div>
    </main>
  )
}

function Section({ title, hint, children }: { title: string; hint: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="min-w-0">
      <h2 className="border-b border-line pb-1 font-semibold">
        {title} <span className="font-normal text-ink-3">{hint}</span>
      </h2>
      {children}
    </section>
  )
}

function In() {
  const files = chosen.use()
  const [over, setOver] = useState(false)
  const field = useRef<HTMLInputElement>(null)
  const { data: imports = [] } = useQuery({ queryKey: ['imports'], queryFn: () => take(api.GET('/api/imports')) })
  return (
    <Section title="In" hint="letters from files">
      <div
        className={`mt-3 rounded-[14px] border-2 border-dashed p-5 text-center ${over ? 'border-tide bg-tide-3' : 'border-line'}`}
        onDragOver={(e) => {
          e.preventDefault()
          setOver(true)
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault()
          e.stopPropagation()
          setOver(false)
          void filesOf(e.dataTransfer).then(chosen.set)
        }}
      >
        <p className="pb-3 text-ink-2">
          Drop letters (.eml), mbox files, folders, Maildirs, or zips of any of them here. What Ebbe has already is
          recognised and not doubled.
        </p>
        <button className="btn btn-main" onClick={() => field.current?.click()}>
          <UploadIcon className="size-4" aria-hidden /> Choose files…
        </button>
        <input
          ref={field}
          type="file"
          multiple
          hidden
          aria-label="Files with letters"
          onChange={(e) => {
            chosen.set([...(e.target.files ?? [])])
            e.target.value = ''
          }}
        />
      </div>
      {files.length > 0 && <Where files={files} />}
      <ul aria-label="Imports" className="mt-4">
        {imports.map((im) => (
          <Import key={im.id} im={im} />
        ))}
      </ul>
      {imports.length === 0 && <p className="text-ink-3">Nothing has been imported yet.</p>}
    </Section>
  )
}

/** Asks where the letters go, before anything is taken in. */
function Where({ files }: { files: File[] }) {
  const [inbox, setInbox] = useState(false)
  const [days, setDays] = useState(7)
  const [old, setOld] = useState(false)
  const begin = () => {
    chosen.set([])
    takeIn(files, { inboxDays: inbox ? days : 0, oldQuoting: old }).catch((e: unknown) =>
      failed(errorText(e, 'The import did not begin.')),
    )
  }
  const total = files.reduce((sum, f) => sum + f.size, 0)
  return (
    <form
      aria-label="Where the letters go"
      className="mt-3 rounded-[14px] border border-line bg-paper p-4"
      onSubmit={(e) => {
        e.preventDefault()
        begin()
      }}
    >
      <p className="pb-2 font-semibold">
        {files.length === 1 ? files[0]?.name : `${files.length} files`}{' '}
        <span className="font-normal text-ink-3">{size(total)}</span>
      </p>
      <fieldset>
        <legend className="pb-1 text-ink-2">Where do the letters go?</legend>
        <label className="flex items-center gap-2 py-1">
          <input
            type="radio"
            name="place"
            autoFocus
            className="size-4 accent-[var(--tide)]"
            checked={!inbox}
            onChange={() => setInbox(false)}
          />
          All to the archive
        </label>
        <div className="flex flex-wrap items-center gap-2 py-1">
          <label className="flex items-center gap-2">
            <input
              type="radio"
              name="place"
              className="size-4 accent-[var(--tide)]"
              checked={inbox}
              onChange={() => setInbox(true)}
            />
            To the inbox those newer than
          </label>
          <input
            type="number"
            min={1}
            max={40000}
            aria-label="Days"
            className="field !w-20 !py-1"
            value={days}
            onFocus={() => setInbox(true)}
            onChange={(e) => setDays(Math.max(1, Number(e.target.value) || 1))}
          />
          days, the others to the archive
        </div>
      </fieldset>
      <label className="flex items-center gap-2 py-1 text-[13px] text-ink-2">
        <input
          type="checkbox"
          className="size-4 accent-[var(--tide)]"
          checked={old}
          onChange={(e) => setOld(e.target.checked)}
        />
        The mbox files are of the older kind (mboxo), which leaves “&gt;From ” alone
      </label>
      <p className="py-2 text-[13px] text-ink-3">
        Imported letters bring nothing back, ring no bell and are answered by nobody. The import can be undone as one.
      </p>
      <div className="flex justify-end gap-2">
        <button type="button" className="btn" onClick={() => chosen.set([])}>
          Cancel
        </button>
        <button type="submit" className="btn btn-main">
          {inbox ? `Import, the last ${days} days to the inbox` : 'Import to the archive'}
        </button>
      </div>
    </form>
  )
}

const states = { done: 'done', stopped: 'stopped early', failed: 'failed' } as const

function Import({ im }: { im: ImportView }) {
  const sending = upload.use()
  const [open, setOpen] = useState(false)
  const filling = im.state === 'filling'
  const busy = filling || im.state === 'running'
  const [done, of] = filling
    ? sending?.id === im.id
      ? [sending.sent, sending.size]
      : [0, 1]
    : [im.done, Math.max(im.size, 1)]
  const part = Math.min(100, Math.round((100 * done) / Math.max(of, 1)))
  return (
    <li className="border-b border-line py-2.5">
      <div className="flex flex-wrap items-center gap-2">
        <span className="min-w-0 truncate font-semibold">{im.name}</span>
        <span className="text-[13px] text-ink-3">{stamp(im.madeAt)}</span>
        {!busy && (
          <span className={`chip ${im.state === 'failed' ? '!bg-buoy-2 !text-buoy' : ''}`}>
            {im.undone ? 'undone' : states[im.state as keyof typeof states]}
          </span>
        )}
        <span className="flex-1" />
        {busy && (
          <button className="btn btn-small" onClick={() => void stopImport(im.id)}>
            Stop
          </button>
        )}
        {!busy && im.new > 0 && !im.undone && (
          <button className="btn btn-small" onClick={() => void undo(im.entry)}>
            Undo the import
          </button>
        )}
      </div>
      {busy && (
        <div
          role="progressbar"
          aria-label={filling ? 'Sending' : 'Taking in'}
          aria-valuenow={part}
          aria-valuemin={0}
          aria-valuemax={100}
          className="mt-2 h-1.5 overflow-hidden rounded-full bg-shore-2"
        >
          <div className="h-full bg-tide" style={{ width: `${part}%` }} />
        </div>
      )}
      <p className="pt-1 text-[13px] text-ink-2" role="status">
        {filling && `Sending the files: ${part} %. Keep this page open until they are there.`}
        {!filling && (
          <>
            {im.read} read, <b>{im.new} new</b>, {im.known} known already
            {im.passed > 0 && `, ${im.passed} ${im.passed === 1 ? 'file is no letter' : 'files are no letters'}`}
            {im.damaged > 0 && ', '}
          </>
        )}
        {im.damaged > 0 && (
          <button className="text-lamp underline" aria-expanded={open} onClick={() => setOpen(!open)}>
            {im.damaged} damaged
          </button>
        )}
        {im.trouble && <span className="block text-buoy">{im.trouble}</span>}
      </p>
      {open && (
        <ul className="mt-1 border-l-2 border-lamp-2 pl-3 text-[13px]">
          {im.troubles.map((t, i) => (
            <li key={i} className="py-0.5">
              {t.conversation ? (
                <Link to="/letter/$id" params={{ id: String(t.conversation) }} className="text-tide underline">
                  {t.subject || t.name}
                </Link>
              ) : (
                <span className="font-medium">{t.name}</span>
              )}
              : {t.what}
            </li>
          ))}
          {im.damaged > im.troubles.length && (
            <li className="text-ink-3">and {im.damaged - im.troubles.length} more</li>
          )}
        </ul>
      )}
    </li>
  )
}

const formats = [
  ['mbox', 'One mbox file'],
  ['maildir', 'A Maildir, zipped'],
  ['eml', 'Single letters (.eml), zipped'],
] as const

function Out() {
  const { data: labels = [] } = useLabels()
  const [label, setLabel] = useState('')
  const [copies, setCopies] = useState(false)
  const query = (label ? `&label=${encodeURIComponent(label)}` : '') + (copies ? '&copies=1' : '')
  return (
    <Section title="Out" hint="byte for byte">
      <label className="mt-3 flex items-center gap-2">
        Letters
        <select className="field !w-auto !py-1" value={label} onChange={(e) => setLabel(e.target.value)}>
          <option value="">all of them</option>
          {labels.map((l) => (
            <option key={l} value={l}>
              with the label {l}
            </option>
          ))}
        </select>
      </label>
      <label className="mt-2 flex items-start gap-2 text-[13px]">
        <input
          type="checkbox"
          className="mt-0.5 size-4 accent-[var(--tide)]"
          checked={copies}
          onChange={(e) => setCopies(e.target.checked)}
        />
        <span>
          Every copy
          <span className="block text-ink-3">
            A letter that came several times, by two accounts or by a list, is written once, as it came first. With this
            each copy is written as it came.
          </span>
        </span>
      </label>
      <ul className="mt-2 space-y-2">
        {formats.map(([format, name]) => (
          <li key={format}>
            <a className="btn w-full !justify-start" href={`/api/export?format=${format}${query}`} download>
              <Download className="size-4" aria-hidden /> {name}
            </a>
          </li>
        ))}
      </ul>
      <p className="py-2 text-[13px] text-ink-3">
        What a search finds and what you select is saved from there: the list’s “Save as…”. Held letters stay outside.
      </p>
      <h3 className="border-b border-line pt-4 pb-1 font-semibold">Everything</h3>
      <p className="py-2 text-[13px] text-ink-2">
        One zip with all letters and all that Ebbe knows besides: places, returns, follow-ups, the Journal with its
        undo, in documented JSON. It restores completely into an empty Ebbe with{' '}
        <code className="rounded bg-shore-2 px-1 whitespace-nowrap">ebbe --db new.db restore FILE</code>.
      </p>
      <a className="btn w-full !justify-start" href="/api/archive" download>
        <Download className="size-4" aria-hidden /> Archive of everything
      </a>
    </Section>
  )
}
