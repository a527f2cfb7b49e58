import { NotepadText } from 'lucide-react'
import { useState } from 'react'
import type { Template } from '../api/client'
import { useTemplates } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { CouldNotRead } from '../kit/CouldNotRead'

/** Asks for a template, found by typing any words of it; or keeps what is written as one. */
export function PutInDialog(props: {
  /** Whether there is something that could be kept. */
  written: boolean
  onTake: (t: Template) => void
  onKeep: (name: string) => void
  onClose: () => void
}) {
  const { data, isError, error, refetch } = useTemplates()
  const [typed, setTyped] = useState('')
  const [at, setAt] = useState(0)
  const near = typed.trim().toLowerCase()
  const words = near.split(/\s+/)
  const fits = (t: Template) => {
    const all = `${t.name}\n${t.subject}\n${t.text}`.toLowerCase()
    return words.every((w) => all.includes(w))
  }
  // Names come before what stands in the texts.
  const distance = (t: Template) =>
    t.name.toLowerCase().startsWith(near) ? 0 : t.name.toLowerCase().includes(near) ? 1 : 2
  const offers = (data?.templates ?? [])
    .filter(fits)
    .sort((a, b) => distance(a) - distance(b))
    .slice(0, 50)
  const meant = offers[at]
  return (
    <Dialog
      title="Put in a template"
      icon={<NotepadText className="size-5 text-ink-2" aria-hidden />}
      onClose={props.onClose}
    >
      <input
        autoFocus
        role="combobox"
        aria-label="Template"
        aria-expanded={offers.length > 0}
        aria-controls="templates"
        aria-activedescendant={meant && `template-${meant.id}`}
        className="field"
        placeholder="Any words of it"
        maxLength={80}
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value)
          setAt(0)
        }}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault()
            setAt((n) => Math.min(Math.max(n + (e.key === 'ArrowDown' ? 1 : -1), 0), Math.max(offers.length - 1, 0)))
          } else if (e.key === 'Enter' && meant) {
            e.preventDefault()
            props.onTake(meant)
          }
        }}
      />
      {isError && <CouldNotRead what="The templates" error={error} again={() => void refetch()} />}
      {data && offers.length === 0 && (
        <p className="pt-3 text-ink-2">
          {data.templates.length === 0
            ? 'No templates yet. Keep what you write as one, or make them under Templates and groups.'
            : 'No template has these words.'}
        </p>
      )}
      <ul id="templates" role="listbox" aria-label="Templates" className="mt-2 max-h-[44vh] min-h-8 overflow-y-auto">
        {offers.map((t, i) => (
          <li
            key={t.id}
            id={`template-${t.id}`}
            role="option"
            aria-selected={i === at}
            ref={(row) => (i === at ? row?.scrollIntoView({ block: 'nearest' }) : undefined)}
            className={`cursor-pointer rounded-lg px-3 py-1.5 ${i === at ? 'bg-tide-2' : 'hover:bg-shore'}`}
            onMouseDown={(e) => e.preventDefault()}
            onClick={() => props.onTake(t)}
          >
            <span className="font-semibold">{t.name}</span>
            {t.files.length > 0 && (
              <span className="ml-2 text-[13px] text-ink-3">
                {t.files.length === 1 ? '1 file' : `${t.files.length} files`}
              </span>
            )}
            <span className="line-clamp-1 text-[13px] text-ink-2">{t.text}</span>
          </li>
        ))}
      </ul>
      <DialogFoot>
        <button
          type="button"
          className="btn mr-auto"
          disabled={!props.written || !typed.trim()}
          title="Type its name above first"
          onClick={() => props.onKeep(typed.trim())}
        >
          {typed.trim() ? `Keep this text as “${typed.trim()}”` : 'Keep this text: type its name'}
        </button>
        <button className="btn" onClick={props.onClose}>
          Leave it <span className="key">Esc</span>
        </button>
        <button className="btn btn-main" disabled={!meant} onClick={() => meant && props.onTake(meant)}>
          Put in
        </button>
      </DialogFoot>
    </Dialog>
  )
}
