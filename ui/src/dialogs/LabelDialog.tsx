import { FolderDown, Tag } from 'lucide-react'
import { useState } from 'react'
import { useLabels } from '../api/queries'
import { Dialog, DialogFoot } from '../parts/Dialog'

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
  const word = typed.trim()
  const offers = known.filter((l) => l.toLowerCase().includes(word.toLowerCase()) && !chosen.includes(l)).slice(0, 8)
  const isNew = word !== '' && !known.some((l) => l.toLowerCase() === word.toLowerCase())
  const list = [...(isNew ? [word] : []), ...offers]
  const add = (label: string | undefined) => {
    if (!label) return
    setChosen((was) => [...was, label])
    setTyped('')
    setAt(0)
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
        aria-activedescendant={list[at] ? `label-${at}` : undefined}
        className="field mt-2"
        placeholder="A label, known or new"
        maxLength={60}
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value)
          setAt(0)
        }}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault()
            setAt((n) => Math.min(Math.max(n + (e.key === 'ArrowDown' ? 1 : -1), 0), Math.max(list.length - 1, 0)))
          } else if (e.key === ',' && word) {
            e.preventDefault()
            add(list[at])
          } else if (e.key === 'Enter') {
            e.preventDefault()
            const all = [...chosen, ...(word && list[at] ? [list[at]] : [])]
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
            aria-selected={i === at}
            className={`cursor-pointer rounded-lg px-3 py-1.5 ${i === at ? 'bg-tide-2' : 'hover:bg-shore'}`}
            onMouseDown={(e) => e.preventDefault()}
            onClick={() => add(l)}
          >
            {isNew && i === 0 ? `New label “${l}”` : l}
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
        <button
          className="btn btn-main"
          disabled={!props.file && chosen.length === 0 && !word}
          onClick={() => props.onTake([...chosen, ...(word && list[at] ? [list[at]] : [])])}
        >
          {props.file ? (chosen.length > 0 || word ? 'File' : 'File without a label') : 'Label'}
        </button>
      </DialogFoot>
    </Dialog>
  )
}
