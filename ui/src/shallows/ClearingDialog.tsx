import { MailX } from 'lucide-react'
import { useEffect, useRef, useState, type KeyboardEvent } from 'react'
import { useClearing } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { carryOut, told } from '../state/commands'
import { refuse, sortTo } from '../state/sorting'

/** What can be done with a sender, by its key. */
const acts = [
  { key: '0', word: 'Unsubscribe' },
  { key: '7', word: 'Turn away' },
  { key: '4', word: 'To reading' },
  { key: '1', word: 'Keep' },
] as const
type Act = (typeof acts)[number]['key']

/** All lists and bulk senders about which nothing was settled, to be left, turned away, put to
 * reading or kept; what was settled goes, so that one goes on where one stopped. */
export function ClearingDialog({ onClose }: { onClose: () => void }) {
  const { data, isPending, isError, error, refetch } = useClearing()
  const senders = data?.senders ?? []
  const [at, setAt] = useState(0)
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set())
  const list = useRef<HTMLUListElement>(null)
  const focus = Math.min(at, senders.length - 1)
  const those = chosen.size > 0 ? senders.filter((s) => chosen.has(s.key)) : senders.slice(focus, focus + 1)
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
  // What is settled goes, and the focus with it: the next one takes it.
  useEffect(() => {
    list.current?.querySelector<HTMLElement>('[role=option][tabindex="0"]')?.focus()
  }, [senders.length])
  const act = (key: Act) => {
    const on = those.map((s) => ({ id: s.conversation, last: s.letter }))
    if (on.length === 0) return
    if (key === '0') {
      for (const s of those)
        if (s.leave && s.leave.by !== 'page') void carryOut({ path: 'unsubscribe', id: s.letter, body: {} }).then(told)
    } else if (key === '4') sortTo(on, 'reading', 'source')
    else refuse(on, key === '7' ? 'away' : 'wanted', 'source')
    setChosen(new Set())
  }
  const keys = (e: KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey || senders.length === 0) return
    const digit = acts.find((a) => a.key === e.key)
    if (digit) act(digit.key)
    else if (e.key === 'ArrowDown' || e.key === 'j') move(Math.min(focus + 1, senders.length - 1))
    else if (e.key === 'ArrowUp' || e.key === 'k') move(Math.max(focus - 1, 0))
    else if (e.key === 'x' || (e.key === ' ' && e.target instanceof HTMLLIElement)) {
      const there = senders[focus]
      if (there) toggle(there.key)
    } else return
    e.preventDefault()
  }
  return (
    <Dialog
      title="Clearing session"
      hint={data ? `${senders.length} that send and are not settled, ${data.settled} settled` : ''}
      icon={<MailX className="size-5 text-tide" aria-hidden />}
      wide
      onClose={onClose}
    >
      <div onKeyDown={keys}>
        {isPending && <p className="py-6 text-ink-2">Counting who sends…</p>}
        {isError && (
          <p role="alert" className="py-6">
            {error.message}{' '}
            <button className="btn btn-small" onClick={() => void refetch()}>
              Try again
            </button>
          </p>
        )}
        {data && senders.length === 0 && (
          <p className="py-6 text-ink-2">Nothing is left to clear: every list that sends is settled.</p>
        )}
        <ul
          ref={list}
          role="listbox"
          aria-label="Lists and bulk senders"
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
                <span className="block truncate text-[13px] text-ink-2">
                  {s.of}
                  {s.leave ? (s.leave.by === 'page' ? ' · left on its page' : '') : ' · says not how it is left'}
                </span>
              </span>
              <span className="w-24 text-right text-[13px] tabular-nums max-md:w-16">{s.monthly} a month</span>
              <span
                className="flex w-28 items-center justify-end gap-2 text-[13px] tabular-nums max-md:w-16"
                title="how many you opened"
              >
                <span className="h-1.5 flex-1 rounded-full bg-shore-2 max-md:hidden" aria-hidden>
                  <span className="block h-full rounded-full bg-kelp" style={{ width: `${s.opened}%` }} />
                </span>
                {s.opened} % read
              </span>
            </li>
          ))}
        </ul>
        <div className="mt-3 grid grid-cols-4 gap-2 max-md:grid-cols-2" role="group" aria-label="What becomes of them">
          {acts.map((a) => (
            <button
              key={a.key}
              className="btn justify-between"
              disabled={those.length === 0 || (a.key === '0' && those.every((s) => !s.leave || s.leave.by === 'page'))}
              onClick={() => act(a.key)}
            >
              {a.word}
              {chosen.size > 1 && <span className="font-normal text-ink-2">{chosen.size}</span>}
              <span className="key">{a.key}</span>
            </button>
          ))}
        </div>
        <DialogFoot>
          <span className="flex-1 text-[13px] text-ink-2 max-md:hidden">
            <span className="key">J</span> <span className="key">K</span> move <span className="key">X</span> select
          </span>
          <button className="btn btn-main" onClick={onClose}>
            Stop here <span className="key">Esc</span>
          </button>
        </DialogFoot>
      </div>
    </Dialog>
  )
}
