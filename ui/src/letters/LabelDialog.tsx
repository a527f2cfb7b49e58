import { FolderDown, Tag } from 'lucide-react'
import { useState } from 'react'
import { useLabels } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'

/** Asks for labels, known or new: to file under, or only to mark. */
export function LabelDialog(props: {
  file: boolean
  hint: string
  onTake: (labels: string[]) => void
  onClose: () => void
}) {
  const { data: known = [] } = useLabels()
  const [typed, setTyped] = useState('')
  const [chosen, setChosen] = useState<string[]>([])
  const [at, setAt] = useState(0)
  const [moved, setMoved] = useState(false)
  const word = typed.trim()
  const near = word.toLowerCase()
  // The exact name comes first, then what begins with it; a new one comes last.
  const distance = (l: string) => (l.toLowerCase() === near ? 0 : l.toLowerCase().startsWith(near) ? 1 : 2)
  const offers = known
    .filter((l) => l.toLowerCase().includes(near) && !chosen.includes(l))
    .sort((a, b) => distance(a) - distance(b))
    .slice(0, 8)
  const isNew = word !== '' && !known.some((l) => l.toLowerCase() === near)
  const list = [...offers, ...(isNew ? [word] : [])]
  // What is highlighted is taken: by what was typed, or once the arrows were used.
  const meant = word || moved ? list[at] : undefined
  const all = [...chosen, ...(meant ? [meant] : [])]
  const add = (label: string | undefined) => {
    if (!label) return
    setChosen((was) => [...was, label])
    setTyped('')
    setAt(0)
    setMoved(false)
  }
  return (
    <Dialog
      title={props.file ? 'File under' : 'Label'}
      hint={props.hint}
      icon={
        props.file ? (
          <FolderDown className="size-5 text-ink-2" aria-hidden />
        ) : (
          <Tag className="size-5 text-ink-2" aria-hidden />
        )
      }
      onClose={props.onClose}
    >
      <div className="flex flex-wrap items-center gap-1.5">
        {chosen.map((l) => (
          <span key={l} className="chip !bg-tide-2 !text-tide">
            {l}
            <button
              aria-label={`Leave ${l} out`}
              className="-mr-1 px-1"
              onClick={() => setChosen((was) => was.filter((o) => o !== l))}
            >
              ×
            </button>
          </span>
        ))}
      </div>
      <input
        autoFocus
        role="combobox"
        aria-label="Label"
        aria-expanded={list.length > 0}
        aria-controls="labels"
        aria-activedescendant={meant ? `label-${at}` : undefined}
        className="field mt-2"
        placeholder="A label, known or new"
        maxLength={60}
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value)
          setAt(0)
          setMoved(false)
        }}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault()
            setMoved(true)
            if (moved || word)
              setAt((n) => Math.min(Math.max(n + (e.key === 'ArrowDown' ? 1 : -1), 0), Math.max(list.length - 1, 0)))
          } else if (e.key === ',' && meant) {
            e.preventDefault()
            add(meant)
          } else if (e.key === 'Enter') {
            e.preventDefault()
            if (all.length > 0 || props.file) props.onTake(all)
          } else if (e.key === 'Backspace' && typed === '') setChosen((was) => was.slice(0, -1))
        }}
      />
      <ul id="labels" role="listbox" aria-label="Labels" className="mt-2 min-h-8">
        {list.map((l, i) => (
          <li
            key={l}
            id={`label-${i}`}
            role="option"
            aria-selected={meant !== undefined && i === at}
            className={`cursor-pointer rounded-lg px-3 py-1.5 ${meant !== undefined && i === at ? 'bg-tide-2' : 'hover:bg-shore'}`}
            onMouseDown={(e) => e.preventDefault()}
            onClick={() => add(l)}
          >
            {isNew && i === list.length - 1 ? `New label “${l}”` : l}
          </li>
        ))}
      </ul>
      <DialogFoot>
        <span className="mr-auto text-[13px] text-ink-2">
          <span className="key">,</span> one more
        </span>
        <button className="btn" onClick={props.onClose}>
          Leave it <span className="key">Esc</span>
        </button>
        <button className="btn btn-main" disabled={!props.file && all.length === 0} onClick={() => props.onTake(all)}>
          {props.file ? (all.length > 0 ? 'File' : 'File without a label') : 'Label'}
        </button>
      </DialogFoot>
    </Dialog>
  )
}
