import { Link } from '@tanstack/react-router'
import { X } from 'lucide-react'
import { useState } from 'react'
import type { LabelView } from '../api/client'
import { useLabelViews } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { LabelMark } from '../kit/LabelChip'
import { accountColours, accountShapes, colourNames } from '../kit/Marks'
import { carryOut, told, undo } from '../state/commands'
import { useKeys } from '../state/keys'

/** So many are shown at once; the others by typing. */
const most = 200

/** All labels, nested: what stands under them, how they look, what they are called. */
export function LabelsView() {
  const { data, isError, error, refetch } = useLabelViews()
  const [typed, setTyped] = useState('')
  useKeys({ undo: () => void undo() })
  const near = typed.trim().toLowerCase()
  const list = (data ?? []).filter((l) => l.name.toLowerCase().includes(near))
  return (
    <main className="relative mx-auto min-h-0 w-full max-w-3xl flex-1 overflow-y-auto px-4 pb-6" aria-label="Labels">
      <div className="flex flex-wrap items-center gap-3 py-2">
        <h1 className="flex-1 text-[20px] font-bold">
          Labels <span className="text-[15px] font-normal text-ink-3">{data?.length}</span>
        </h1>
        {(data?.length ?? 0) > 8 && (
          <input
            className="field !w-56"
            aria-label="Labels by name"
            placeholder="By name"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
          />
        )}
      </div>
      {isError && !data && <CouldNotRead what="The labels" error={error} again={() => void refetch()} />}
      {!data && !isError && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {data?.length === 0 && (
        <p className="rounded-[14px] border border-line bg-paper p-4 text-ink-2">
          No labels yet. A letter gets one by <span className="key">L</span>, or is filed under one. A name with a
          stroke, loans/2025, nests it in another.
        </p>
      )}
      {data && list.length > 0 && (
        <ul className="rounded-[14px] border border-line bg-paper">
          {list.slice(0, most).map((l) => (
            <Line key={l.name} label={l} all={data} />
          ))}
        </ul>
      )}
      {data && data.length > 0 && list.length === 0 && <p className="text-ink-2">No label has that in its name.</p>}
      {list.length > most && (
        <p className="pt-2 text-[13px] text-ink-2">{list.length - most} more: type a part of the name.</p>
      )}
    </main>
  )
}

function Line({ label: l, all }: { label: LabelView; all: LabelView[] }) {
  const [typed, setTyped] = useState<string>()
  const name = typed?.trim()
  const joins = name !== undefined && name !== l.name && all.some((o) => o.name === name)
  const look = (colour: string, shape: string) =>
    void carryOut({ path: 'look-of-label', body: { name: l.name, colour, shape } }).then(told)
  const rename = () => {
    if (name && name !== l.name) void carryOut({ path: 'rename-label', body: { from: l.name, to: name } }).then(told)
    setTyped(undefined)
  }
  return (
    <li
      aria-label={l.name}
      className="flex flex-wrap items-center gap-2 border-t border-line py-1.5 pr-3 first:border-t-0"
      style={{ paddingLeft: `${12 + Math.min(l.depth, 6) * 22}px` }}
    >
      <span className="flex w-4 justify-center text-ink-3">
        <LabelMark look={l} />
      </span>
      {typed === undefined ? (
        <>
          <Link
            to="/search"
            search={{ q: l.q }}
            className="min-w-0 truncate font-medium hover:underline"
            title={l.name}
          >
            {l.short}
          </Link>
          <span className="text-[13px] text-ink-2">
            {l.n}
            {l.undecided > 0 && `, ${l.undecided} undecided`}
          </span>
          <span className="flex-1" />
          <button className="btn btn-small" aria-label={`Rename ${l.name}`} onClick={() => setTyped(l.name)}>
            Rename
          </button>
        </>
      ) : (
        <form
          className="flex min-w-0 flex-1 flex-wrap items-center gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            rename()
          }}
        >
          <input
            autoFocus
            aria-label={`Name of ${l.name}`}
            className="field !w-56"
            maxLength={60}
            value={typed}
            onFocus={(e) => e.target.select()}
            onChange={(e) => setTyped(e.target.value)}
            onKeyDown={(e) => e.key === 'Escape' && setTyped(undefined)}
          />
          <button className="btn btn-small btn-main">{joins ? 'Make one with it' : 'Rename'}</button>
          <span className="flex-1" />
        </form>
      )}
      <span className="ml-auto flex items-center gap-2">
        <select
          aria-label={`Colour of ${l.name}`}
          className="field !w-auto text-[13px]"
          value={l.colour}
          onChange={(e) => look(e.target.value, e.target.value ? l.shape || 'circle' : '')}
        >
          <option value="">no colour</option>
          {accountColours.map((c) => (
            <option key={c} value={c}>
              {colourNames[c] ?? c}
            </option>
          ))}
        </select>
        {l.colour && (
          <select
            aria-label={`Shape of ${l.name}`}
            className="field !w-auto text-[13px]"
            value={l.shape}
            onChange={(e) => look(l.colour, e.target.value)}
          >
            {accountShapes.map((c) => (
              <option key={c}>{c}</option>
            ))}
          </select>
        )}
        <button
          className="btn btn-tight"
          aria-label={`Take ${l.name} off all letters`}
          title="Take it off all letters"
          onClick={() => void carryOut({ path: 'drop-label', body: { name: l.name } }).then(told)}
        >
          <X className="size-4" aria-hidden />
        </button>
      </span>
    </li>
  )
}
