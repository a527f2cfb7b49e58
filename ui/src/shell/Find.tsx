import { useNavigate, useRouterState, useSearch } from '@tanstack/react-router'
import { Search } from 'lucide-react'
import { useEffect, useId, useRef, useState } from 'react'
import { lookAhead } from '../api/queries'
import { actions, act, keyName, possible, useKeyOf, useKeys, type Action } from '../state/keys'
import { beginAt, useCompletions, type Sought } from '../state/seeking'

/** One line of what may be taken in the box: a way to type on, or a command. */
interface Offer {
  key: string
  says: string
  of?: string
  hint?: string
  take: () => void
}

const mostCommands = 8

/** The commands of the page whose names have all that is typed. */
const commandsFor = (typed: string): Action[] => {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean)
  return possible().filter((a) => {
    const name = actions[a].what.toLowerCase()
    return words.every((w) => name.split(/[\s:,;]+/).some((part) => part.startsWith(w)))
  })
}

/** The one box: it finds while one types, completes fields, and does by name what the page can do. */
export function Find() {
  const go = useNavigate()
  const { q, within, best } = useSearch({ strict: false }) as Sought
  const here = useRouterState({ select: (s) => s.location.pathname })
  const [typed, setTyped] = useState(q ?? '')
  const [open, setOpen] = useState(false)
  const [at, setAt] = useState(-1)
  const field = useRef<HTMLInputElement>(null)
  const keyOf = useKeyOf()
  const list = useId()
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const reach = (text: string) => {
    setTyped(text)
    setAt(text.startsWith('>') ? 0 : -1)
    setOpen(true)
    field.current?.focus()
  }
  useKeys({ find: () => field.current?.select(), command: () => reach('>') })
  useEffect(() => setTyped(q ?? ''), [q])
  useEffect(() => beginAt(here), [here])
  const doing = typed.startsWith('>')
  const stays = here === '/search' ? { within, best } : {}
  const search = (text: string) =>
    void go({ to: '/search', search: { q: text, ...stays }, replace: location.pathname === '/search' })
  const type = (text: string) => {
    reach(text)
    clearTimeout(timer.current)
    if (text.startsWith('>') || !text.trim()) return
    lookAhead(text, stays.within, stays.best)
    timer.current = setTimeout(() => search(text)) // what is typed is painted first
  }
  const leave = () => {
    clearTimeout(timer.current)
    setOpen(false)
    setAt(-1)
    field.current?.blur()
  }
  const run = (a: Action) => {
    leave()
    setTyped(q ?? '')
    setTimeout(() => act(a)) // once the box has let go of the focus
  }
  const { data } = useCompletions(typed, open)
  const commands = open && typed.trim() !== '' ? commandsFor(typed.replace(/^>/, '')) : []
  const command = (a: Action): Offer => ({
    key: a,
    says: actions[a].what,
    of: 'Do',
    hint: keyName(keyOf(a)),
    take: () => run(a),
  })
  const offers: Offer[] = doing
    ? commands.slice(0, 40).map(command)
    : [
        ...(data?.list ?? []).map((c) => ({
          key: c.put,
          says: c.put,
          hint: c.says,
          take: () => {
            const text = [...typed].slice(0, data?.from).join('') + c.put
            type(c.put.endsWith(':') ? text : `${text} `)
          },
        })),
        ...(typed.trim().length > 2 ? commands.slice(0, mostCommands / 2).map(command) : []),
      ]
  const shown = open && offers.length > 0
  const chosen = shown ? offers[at] : undefined
  const keys = (e: React.KeyboardEvent) => {
    if (e.nativeEvent.isComposing) return
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      if (!shown) return
      e.preventDefault()
      const n = offers.length + 1
      setAt((was) => ((was + 1 + (e.key === 'ArrowDown' ? 1 : -1) + n) % n) - 1)
    } else if ((e.key === 'Enter' || (e.key === 'Tab' && chosen)) && chosen) {
      e.preventDefault()
      chosen.take()
    } else if (e.key === 'Enter') {
      leave()
      if (!doing) search(typed)
    } else if (e.key === 'Escape') {
      if (doing) setTyped(q ?? '')
      leave()
      if (!doing && location.pathname === '/search') void go({ to: '/inbox' })
    }
  }
  return (
    // Where there is little room it is its glass, and over the bar once it is used.
    <div
      role="search"
      className="relative w-[250px] min-w-32 shrink focus-within:z-30 max-md:w-9 max-md:min-w-9 max-md:focus-within:absolute max-md:focus-within:inset-x-2 max-md:focus-within:w-auto max-md:[&:not(:focus-within)_input]:cursor-pointer max-md:[&:not(:focus-within)_input]:!px-0 max-md:[&:not(:focus-within)_input]:text-transparent max-md:[&:not(:focus-within)_input]:placeholder:text-transparent"
    >
      <Search
        aria-hidden
        className="pointer-events-none absolute top-1/2 left-2.5 size-4 -translate-y-1/2 text-ink-3"
      />
      <input
        ref={field}
        type="search"
        role="combobox"
        aria-label="Find letters"
        aria-expanded={shown}
        aria-controls={list}
        aria-autocomplete="list"
        aria-activedescendant={chosen ? `${list}-${at}` : undefined}
        placeholder="Find, or > to do"
        className="field !py-1.5 !pr-8 !pl-8 max-md:min-h-9"
        value={typed}
        onFocus={() => setOpen(true)}
        onBlur={() => setOpen(false)}
        onChange={(e) => type(e.target.value)}
        onKeyDown={keys}
      />
      {keyOf('find') && (
        <span className="key pointer-events-none absolute top-1/2 right-2 -translate-y-1/2 max-md:hidden">
          {keyOf('find')}
        </span>
      )}
      {shown && (
        <ul
          id={list}
          role="listbox"
          aria-label={doing ? 'What can be done here' : 'To type on'}
          className="absolute top-full right-0 mt-1 max-h-[60vh] w-[min(420px,94vw)] overflow-y-auto rounded-[12px] border border-line bg-paper p-1.5 shadow-float"
        >
          {offers.map((o, i) => (
            <li
              key={o.key}
              id={`${list}-${i}`}
              role="option"
              aria-selected={i === at}
              className={`flex min-h-8 cursor-pointer items-center gap-3 rounded-lg px-2.5 py-1 ${i === at ? 'bg-tide-2' : 'hover:bg-tide-3'}`}
              onMouseDown={(e) => {
                e.preventDefault()
                o.take()
              }}
            >
              {o.of && <span className="text-[13px] text-ink-2">{o.of}</span>}
              <span className="min-w-0 flex-1 truncate">{o.says}</span>
              {o.hint && <span className={o.of ? 'key' : 'max-w-[55%] truncate text-[13px] text-ink-2'}>{o.hint}</span>}
            </li>
          ))}
        </ul>
      )}
      {open && doing && offers.length === 0 && (
        <p className="absolute top-full right-0 mt-1 w-[min(420px,94vw)] rounded-[12px] border border-line bg-paper p-3 shadow-float">
          Nothing here is called that.
        </p>
      )}
    </div>
  )
}
