import { useNavigate, useSearch } from '@tanstack/react-router'
import { Paperclip, Plus, X } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { api, errorText, newId, take, type ReceiverGroup, type Template } from '../api/client'
import { useTemplates } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { upload } from '../state/attaching'
import { carryOut, told, undo } from '../state/commands'
import { failed } from '../state/failed'
import { useKeys } from '../state/keys'
import { size } from '../state/time'

const card = 'mb-3 rounded-[14px] border border-line bg-paper p-4'
type Fresh = { name: string; subject: string; text: string }

/** What a person writes with: texts that are used again and again, and people who are written
 * to together. */
export function TemplatesView() {
  const { data, isError, error, refetch } = useTemplates()
  const { of } = useSearch({ strict: false }) as { of?: number }
  const go = useNavigate()
  const [fresh, setFresh] = useState<Fresh>()
  const [adding, setAdding] = useState(false)
  useKeys({ undo: () => void undo() })
  const asked = useRef<number>(undefined)
  useEffect(() => {
    if (!of || asked.current === of) return
    asked.current = of
    take(api.POST('/api/template-of', { body: { letter: of } })).then(setFresh, (e: unknown) =>
      failed(errorText(e, 'No template could be made of that letter.')),
    )
  }, [of])
  const done = () => {
    setFresh(undefined)
    if (of) void go({ to: '/templates', search: {}, replace: true })
  }
  return (
    <main
      className="mx-auto min-h-0 w-full max-w-3xl flex-1 overflow-y-auto px-4 pb-6"
      aria-label="Templates and groups"
    >
      <div className="flex flex-wrap items-center gap-3 py-2">
        <h1 className="text-[20px] font-bold">Templates</h1>
        <span className="min-w-0 flex-1 text-[13px] text-ink-3 max-md:hidden">
          <span className="key">Alt T</span> puts one into a letter
        </span>
        <button className="btn" onClick={() => setFresh({ name: '', subject: '', text: '' })}>
          <Plus className="size-4" aria-hidden /> New template
        </button>
      </div>
      {isError && <CouldNotRead what="The templates" error={error} again={() => void refetch()} />}
      {!data && !isError && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {fresh && <New fresh={fresh} onDone={done} />}
      {data?.templates.length === 0 && !fresh && (
        <p className={`${card} text-ink-2`}>
          No templates yet. A template is a text with fields such as <code>{'{first name}'}</code>,{' '}
          <code>{'{ask}'}</code>, <code>{'{date: fri}'}</code>, <code>{'{my name}'}</code>, or any of your own: those
          are asked for when it is used, and nothing leaves before they are filled in.
        </p>
      )}
      {data?.templates.map((t) => (
        <One key={t.id} template={t} />
      ))}
      <div className="flex flex-wrap items-center gap-3 pt-4 pb-2">
        <h2 className="text-[20px] font-bold">Groups</h2>
        <span className="min-w-0 flex-1 text-[13px] text-ink-3 max-md:hidden">
          written to together, by the group’s name
        </span>
        <button className="btn" onClick={() => setAdding(true)}>
          <Plus className="size-4" aria-hidden /> New group
        </button>
      </div>
      {adding && <Group onDone={() => setAdding(false)} />}
      {data?.groups.length === 0 && !adding && <p className={`${card} text-ink-2`}>No groups yet.</p>}
      {data?.groups.map((g) => (
        <Group key={g.id} group={g} />
      ))}
    </main>
  )
}

function New({ fresh, onDone }: { fresh: Fresh; onDone: () => void }) {
  const [now, setNow] = useState(fresh)
  return (
    <form
      aria-label="New template"
      className={`${card} !border-tide`}
      onKeyDown={(e) => e.key === 'Escape' && onDone()}
      onSubmit={(e) => {
        e.preventDefault()
        void carryOut({ path: 'new-template', body: now }).then((o) => {
          if (!o) return
          told(o)
          onDone()
        })
      }}
    >
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="Name" value={now.name} focused onType={(name) => setNow({ ...now, name })} />
        <Field label="Subject" value={now.subject} onType={(subject) => setNow({ ...now, subject })} />
      </div>
      <Field label="Text" value={now.text} long onType={(text) => setNow({ ...now, text })} />
      <div className="flex justify-end gap-2 pt-3">
        <button type="button" className="btn" onClick={onDone}>
          Leave it
        </button>
        <button className="btn btn-main">Make this template</button>
      </div>
    </form>
  )
}

function One({ template: t }: { template: Template }) {
  const [open, setOpen] = useState(false)
  const choose = useRef<HTMLInputElement>(null)
  const change = (body: {
    name?: string
    subject?: string
    text?: string
    markdown?: boolean
    files?: string[]
    drop?: number[]
    remove?: boolean
  }) => carryOut({ path: 'edit-template', id: t.id, body })
  const add = (files: File[]) =>
    upload(newId(), files).then(
      (ids) => ids.length > 0 && void change({ files: ids }).then(told),
      (e: unknown) => failed(errorText(e, 'The file could not be added.')),
    )
  return (
    <section aria-label={t.name} className={card}>
      <button
        className="flex w-full items-baseline gap-3 text-left"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <span className="shrink-0 text-[15px] font-semibold">{t.name}</span>
        {!open && <span className="min-w-0 flex-1 truncate text-[14px] text-ink-3">{t.text}</span>}
      </button>
      {open && (
        <>
          <div className="grid gap-3 pt-3 sm:grid-cols-2">
            <Kept label="Name" value={t.name} onKeep={(name) => void change({ name })} />
            <Kept label="Subject" value={t.subject} onKeep={(subject) => void change({ subject })} />
          </div>
          <Kept label="Text" value={t.text} long onKeep={(text) => void change({ text })} />
          <div className="flex flex-wrap items-center gap-2 pt-2 text-[13px]">
            {t.fields.map((f) => (
              <span key={f} className="chip !bg-lamp-2 !text-lamp">
                {f}
              </span>
            ))}
            {t.files.map((f) => (
              <span key={f.id} className="chip">
                <a
                  className="hover:underline"
                  href={`/api/attached/${encodeURIComponent(f.file)}`}
                  target="_blank"
                  rel="noreferrer"
                >
                  {f.name}
                </a>
                <span className="text-ink-3">{size(f.size)}</span>
                <button
                  className="-mr-1 px-1 hover:text-buoy"
                  aria-label={`Take ${f.name} off`}
                  onClick={() => void change({ drop: [f.id] }).then(told)}
                >
                  <X className="size-3.5" aria-hidden />
                </button>
              </span>
            ))}
            <span className="flex-1" />
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="size-4 accent-[var(--tide)]"
                checked={t.markdown}
                onChange={(e) => void change({ markdown: e.target.checked })}
              />
              Markdown
            </label>
            <button className="btn btn-small" onClick={() => choose.current?.click()}>
              <Paperclip className="size-4" aria-hidden /> Add a file
            </button>
            <button className="btn btn-small" onClick={() => void change({ remove: true }).then(told)}>
              Take it away
            </button>
            <input
              ref={choose}
              type="file"
              multiple
              hidden
              aria-label={`Files of ${t.name}`}
              onChange={(e) => {
                void add([...(e.target.files ?? [])])
                e.target.value = ''
              }}
            />
          </div>
        </>
      )}
    </section>
  )
}

function Group({ group: g, onDone }: { group?: ReceiverGroup; onDone?: () => void }) {
  const [open, setOpen] = useState(!g)
  const [name, setName] = useState(g?.name ?? '')
  const [members, setMembers] = useState(g?.members.join('\n') ?? '')
  const close = () => (g ? setOpen(false) : onDone?.())
  if (g && !open)
    return (
      <button
        className={`${card} flex w-full items-baseline gap-3 text-left`}
        aria-expanded={false}
        onClick={() => {
          setName(g.name)
          setMembers(g.members.join('\n'))
          setOpen(true)
        }}
      >
        <span className="shrink-0 text-[15px] font-semibold">{g.name}</span>
        <span className="shrink-0 text-[13px] text-ink-3">
          {g.members.length === 1 ? '1 person' : `${g.members.length} people`}
        </span>
        <span className="min-w-0 flex-1 truncate text-[14px] text-ink-3">{g.members.join(', ')}</span>
      </button>
    )
  return (
    <form
      aria-label={g?.name ?? 'New group'}
      className={`${card} !border-tide`}
      onKeyDown={(e) => e.key === 'Escape' && close()}
      onSubmit={(e) => {
        e.preventDefault()
        const body = { name, members }
        const done = g ? carryOut({ path: 'edit-group', id: g.id, body }) : carryOut({ path: 'new-group', body })
        void done.then((o) => {
          if (!o) return
          told(o)
          close()
        })
      }}
    >
      <Field label="Name" value={name} focused onType={setName} />
      <Field label="Who is in it: addresses in any form" value={members} long onType={setMembers} />
      <div className="flex justify-end gap-2 pt-3">
        {g && (
          <button
            type="button"
            className="btn mr-auto"
            onClick={() => void carryOut({ path: 'edit-group', id: g.id, body: { remove: true } }).then(told)}
          >
            Take it away
          </button>
        )}
        <button type="button" className="btn" onClick={close}>
          Leave it
        </button>
        <button className="btn btn-main">{g ? 'Change this group' : 'Make this group'}</button>
      </div>
    </form>
  )
}

function Field(props: {
  label: string
  value: string
  long?: boolean
  focused?: boolean
  onType: (text: string) => void
  onEnd?: () => void
}) {
  const own = {
    className: 'field mt-1 text-[14px] text-ink',
    value: props.value,
    autoFocus: props.focused,
    onBlur: props.onEnd,
  }
  return (
    <label className="mt-1 block text-[13px] text-ink-2">
      {props.label}
      {props.long ? (
        <textarea rows={6} {...own} onChange={(e) => props.onType(e.target.value)} />
      ) : (
        <input {...own} onChange={(e) => props.onType(e.target.value)} />
      )}
    </label>
  )
}

/** A field whose text is kept when it is left. */
function Kept(props: { label: string; value: string; long?: boolean; onKeep: (text: string) => void }) {
  const [typed, setTyped] = useState<string>()
  return (
    <Field
      label={props.label}
      long={props.long}
      value={typed ?? props.value}
      onType={setTyped}
      onEnd={() => {
        if (typed !== undefined && typed.trimEnd() !== props.value) props.onKeep(typed)
        setTyped(undefined)
      }}
    />
  )
}
