import { FileText, NotebookPen, Paperclip, X } from 'lucide-react'
import { useRef, useState } from 'react'
import { errorText, newId, type Conversation } from '../api/client'
import { upload } from '../state/attaching'
import { carryOut, told } from '../state/commands'
import { failed } from '../state/failed'
import { size } from '../state/time'
import { Dialog, DialogFoot } from '../kit/Dialog'

/** What the person added to a conversation for themselves, above its letters. */
export function OwnNotes({ c, onEdit }: { c: Conversation; onEdit: () => void }) {
  const { note, html, files } = c.own
  if (!note && files.length === 0) return null
  return (
    <aside aria-label="Your note" className="mt-3 rounded-lg border-l-4 border-heather bg-heather-2 px-3 py-2">
      <div className="flex items-center gap-2 text-[13px] text-heather">
        <NotebookPen className="size-4" aria-hidden />
        <span className="flex-1 font-semibold">{note ? 'Your note' : 'Your files'}</span>
        <button className="btn btn-small" onClick={onEdit}>
          Change
        </button>
      </div>
      {note && (
        // The core made it safe: nothing in it runs or is fetched.
        <div className="note pt-1 text-[14.5px] break-words" dangerouslySetInnerHTML={{ __html: html }} />
      )}
      {files.length > 0 && (
        <ul aria-label="Your files" className="flex flex-wrap gap-2 pt-2">
          {files.map((f) => (
            <li key={f.id} className="chip !bg-paper">
              <FileText className="size-3.5 text-ink-3" aria-hidden />
              <a
                className="truncate hover:underline"
                href={`/api/attached/${encodeURIComponent(f.file)}`}
                target="_blank"
                rel="noreferrer"
              >
                {f.name}
              </a>
              <span className="text-ink-3">{size(f.size)}</span>
            </li>
          ))}
        </ul>
      )}
    </aside>
  )
}

/** Asks for a note, a working title and files: what is one's own of a conversation. */
export function OwnDialog({ c, onClose }: { c: Conversation; onClose: () => void }) {
  const [title, setTitle] = useState(c.own.title)
  const [note, setNote] = useState(c.own.note)
  const choose = useRef<HTMLInputElement>(null)
  const [busy, setBusy] = useState(false)
  const annotate = (body: { title?: string; note?: string; files?: string[]; drop?: number[] }) =>
    carryOut({ path: 'annotate', id: c.id, body })
  const keep = () => {
    onClose()
    const changed = {
      ...(title.trim() !== c.own.title ? { title } : {}),
      ...(note.trimEnd() !== c.own.note ? { note } : {}),
    }
    if (Object.keys(changed).length > 0) void annotate(changed).then(told)
  }
  const add = (files: File[]) => {
    if (files.length === 0) return
    setBusy(true)
    void upload(newId(), files)
      .then((ids) => annotate({ files: ids }).then(told))
      .catch((e: unknown) => failed(errorText(e, 'The file could not be added.')))
      .finally(() => setBusy(false))
  }
  return (
    <Dialog
      title="Your own"
      hint="none of it is ever sent"
      icon={<NotebookPen className="size-5 text-heather" aria-hidden />}
      onClose={onClose}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault()
          keep()
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) {
            e.preventDefault()
            keep()
          }
        }}
      >
        <label className="block text-[13px] text-ink-2">
          Note (Markdown)
          <textarea
            autoFocus
            rows={6}
            className="field mt-1 text-[15px] text-ink"
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
        </label>
        <label className="mt-2 block text-[13px] text-ink-2">
          Working title
          <input
            className="field mt-1 text-[15px] text-ink"
            placeholder={c.own.subject}
            value={title}
            onChange={(e) => setTitle(e.target.value)}
          />
        </label>
        <div className="mt-3 flex flex-wrap items-center gap-2 text-[13px]">
          {c.own.files.map((f) => (
            <span key={f.id} className="chip">
              {f.name}
              <button
                type="button"
                className="-my-1 -mr-1.5 grid size-6 place-items-center hover:text-buoy"
                aria-label={`Take ${f.name} away`}
                onClick={() => void annotate({ drop: [f.id] }).then(told)}
              >
                <X className="size-3.5" aria-hidden />
              </button>
            </span>
          ))}
          <button type="button" className="btn btn-small" disabled={busy} onClick={() => choose.current?.click()}>
            <Paperclip className="size-4" aria-hidden /> {busy ? 'It is coming' : 'Add a file'}
          </button>
          <input
            ref={choose}
            type="file"
            multiple
            hidden
            aria-label="Files to add"
            onChange={(e) => {
              add([...(e.target.files ?? [])])
              e.target.value = ''
            }}
          />
        </div>
        <DialogFoot>
          <button type="button" className="btn" onClick={onClose}>
            Leave it <span className="key">Esc</span>
          </button>
          <button className="btn btn-main">
            Keep <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Ctrl ↵</span>
          </button>
        </DialogFoot>
      </form>
    </Dialog>
  )
}
