import { useNavigate, useRouterState } from '@tanstack/react-router'
import { Filter } from 'lucide-react'
import { useEffect, useState } from 'react'
import { Choice } from '../kit/Choice'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { useLatest } from '../state/latest'
import { useSettled } from '../api/settled'
import { beganIn, useCounts, useFilters, useScopes, type Sought } from '../state/seeking'

/** Narrows any list by what its letters are, several at once, each by its key; what is left shows beneath. */
export function OnlyDialog({ onClose }: { onClose: () => void }) {
  const go = useNavigate()
  const { path, search } = useRouterState({
    select: (s) => ({ path: s.location.pathname, search: s.location.search as Sought }),
  })
  const scopes = useScopes()
  const found = path === '/search'
  const [within] = useState(
    found
      ? (search.within ?? '')
      : scopes
          .map((s) => s.within)
          .filter(Boolean)
          .join(' '),
  )
  const [q, setQ] = useState(found ? (search.q ?? '') : '')
  const { data: filters = [], isPlaceholderData } = useFilters(q)
  const { data: counts } = useCounts(useSettled({ q, within }))
  const to = (next: string) => {
    setQ(next)
    if (next.trim() === '' && within !== '') void go({ to: `/${beganIn() as 'inbox'}` })
    else void go({ to: '/search', search: { q: next, within: within || undefined }, replace: found })
  }
  // Keys are pressed faster than is read what each makes of the search: one waits for the one before it.
  const [presses, setPresses] = useState<string[]>([])
  const toggle = (says: string) => setPresses((was) => [...was, says])
  const toNext = useLatest(to)
  useEffect(() => {
    const one = isPlaceholderData ? undefined : filters.find((f) => f.says === presses[0])
    if (!one) return
    setPresses((was) => was.slice(1))
    toNext(one.q)
  }, [presses, filters, isPlaceholderData, toNext])
  const marks = filters.filter((f) => f.of === 'mark')
  const choice = (of: 'label' | 'account', name: string) => {
    const list = filters.filter((f) => f.of === of)
    const on = list.find((f) => f.on)
    if (list.length === 0) return null
    return (
      <label className="grid min-w-0 flex-1 gap-1">
        <span className="text-[13px] text-ink-2">{name}</span>
        <Choice
          label={name}
          className="field"
          value={on?.says ?? ''}
          options={[['', 'any'], ...list.map((f) => [f.says, f.says] as const)]}
          onChange={(says) => {
            const next = list.find((f) => f.says === says) ?? on
            if (next) toggle(next.says)
          }}
        />
      </label>
    )
  }
  return (
    <Dialog
      title="Only"
      hint={q ? (counts ? `${counts.n.toLocaleString()} found` : '') : 'letters of this list that are'}
      icon={<Filter className="size-5 text-tide" aria-hidden />}
      onClose={onClose}
    >
      <div
        className="grid gap-3"
        onKeyDown={(e) => {
          if (e.ctrlKey || e.metaKey || e.altKey || (e.target as HTMLElement).closest('select, [role=combobox]')) return
          const f = marks.find((m) => m.key === e.key.toLowerCase())
          if (!f) return
          e.preventDefault()
          toggle(f.says)
        }}
      >
        <div role="group" aria-label="Only letters that are" className="flex flex-wrap gap-1.5">
          {marks.map((f, i) => (
            <button
              key={f.says}
              autoFocus={i === 0}
              aria-pressed={f.on}
              className={`btn ${f.on ? 'btn-main' : ''}`}
              onClick={() => toggle(f.says)}
            >
              {f.says} <span className="key">{f.key?.toUpperCase()}</span>
            </button>
          ))}
        </div>
        <div className="flex flex-wrap gap-3">
          {choice('label', 'Label')}
          {choice('account', 'Account')}
        </div>
        <DialogFoot>
          {q && (
            <button className="btn" onClick={() => to('')}>
              All again
            </button>
          )}
          <button className="btn btn-main" onClick={onClose}>
            Show <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Esc</span>
          </button>
        </DialogFoot>
      </div>
    </Dialog>
  )
}
