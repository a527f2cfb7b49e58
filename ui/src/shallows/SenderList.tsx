import { useEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react'

export interface SenderAct<T> {
  key: string
  word: string
  /** Whether it can be done with some. */
  can?: (those: T[]) => boolean
  act: (those: T[]) => void
}

/** Senders, of whom some or the one in focus are dealt with by a key. Who is dealt with goes, and
 * the next one takes the focus. */
export function SenderList<T extends { key: string; name: string }>(props: {
  label: string
  senders: T[]
  acts: SenderAct<T>[]
  /** What stands below the name, and beside it. */
  below: (sender: T) => ReactNode
  beside: (sender: T) => ReactNode
  foot: ReactNode
}) {
  const { senders, acts } = props
  const [at, setAt] = useState(0)
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set())
  const list = useRef<HTMLUListElement>(null)
  const focus = Math.min(at, senders.length - 1)
  const picked = senders.filter((s) => chosen.has(s.key))
  const those = picked.length > 0 ? picked : senders.slice(focus, focus + 1)
  useEffect(() => {
    list.current?.querySelector<HTMLElement>('[role=option][tabindex="0"]')?.focus()
  }, [senders.length])
  const toggle = (key: string) =>
    setChosen((was) => {
      const now = new Set(was)
      if (!now.delete(key)) now.add(key)
      return now
    })
  const move = (to: number) => {
    setAt(to)
    list.current?.querySelectorAll<HTMLElement>('[role=option]')[to]?.focus()
  }
  const can = (a: SenderAct<T>) => those.length > 0 && (a.can?.(those) ?? true)
  const act = (a: SenderAct<T>) => {
    a.act(those)
    setChosen(new Set())
  }
  const keys = (e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey || senders.length === 0) return
    const there = senders[focus]
    const meant = acts.find((a) => a.key === e.key)
    if (meant) {
      if (can(meant)) act(meant)
    } else if (e.key === 'ArrowDown' || e.key === 'j') move(Math.min(focus + 1, senders.length - 1))
    else if (e.key === 'ArrowUp' || e.key === 'k') move(Math.max(focus - 1, 0))
    else if (there && (e.key === 'x' || (e.key === ' ' && e.target instanceof HTMLLIElement))) toggle(there.key)
    else return
    e.preventDefault()
  }
  return (
    <div onKeyDown={keys}>
      <ul
        ref={list}
        role="listbox"
        aria-label={props.label}
        aria-multiselectable
        className="max-h-[52vh] overflow-y-auto"
      >
        {senders.map((s, i) => (
          <li
            key={s.key}
            role="option"
            aria-selected={chosen.has(s.key)}
            tabIndex={i === focus ? 0 : -1}
            className={`flex min-h-11 items-center gap-3 border-b border-line px-2 py-1 outline-none focus:rounded-lg focus:ring-2 focus:ring-tide focus:ring-inset ${chosen.has(s.key) ? 'bg-tide-2' : ''}`}
            onFocus={() => setAt(i)}
            onClick={() => toggle(s.key)}
          >
            <span className="min-w-0 flex-1">
              <span className="block truncate font-semibold">{s.name}</span>
              <span className="block truncate text-[13px] text-ink-2">{props.below(s)}</span>
            </span>
            {props.beside(s)}
          </li>
        ))}
      </ul>
      <div className="mt-3 grid grid-cols-4 gap-2 max-md:grid-cols-2" role="group" aria-label="What becomes of them">
        {acts.map((a) => (
          <button key={a.key} className="btn justify-between" disabled={!can(a)} onClick={() => act(a)}>
            {a.word}
            {picked.length > 1 && <span className="font-normal text-ink-2">{picked.length}</span>}
            <span className="key">{a.key}</span>
          </button>
        ))}
      </div>
      {props.foot}
    </div>
  )
}
