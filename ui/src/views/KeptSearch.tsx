import { Bookmark } from 'lucide-react'
import { useState } from 'react'
import { useSearches } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { carryOut, told } from '../state/commands'
import { keyName, useKeyOf, useKeys } from '../state/keys'
import type { Sought } from '../state/seeking'

/** Keeps a search under a name; one that is kept is renamed or forgotten. */
export function Keep({ sought }: { sought: Sought }) {
  const { q = '', within = '' } = sought
  const { data = [] } = useSearches(false)
  const kept = data.find((s) => s.q === q.trim() && s.within === within)
  const [asks, setAsks] = useState(false)
  const keyOf = useKeyOf()
  useKeys({ keepSearch: () => setAsks(true) })
  return (
    <>
      <button className="btn btn-small" aria-pressed={kept !== undefined} onClick={() => setAsks(true)}>
        <Bookmark className={`size-3.5 ${kept ? 'fill-current' : ''}`} aria-hidden />
        <span className="max-w-40 truncate">{kept ? kept.name : 'Keep'}</span>
        <span className="key max-lg:hidden">{keyName(keyOf('keepSearch'))}</span>
      </button>
      {asks && <KeepDialog key={kept?.id} q={q.trim()} within={within} kept={kept} onClose={() => setAsks(false)} />}
    </>
  )
}

function KeepDialog(props: {
  q: string
  within: string
  kept: { id: number; name: string } | undefined
  onClose: () => void
}) {
  const { q, within, kept, onClose } = props
  const [name, setName] = useState(kept?.name ?? q.slice(0, 60))
  const keep = () => {
    if (!name.trim()) return
    onClose()
    void carryOut(
      kept
        ? { path: 'rename-search', id: kept.id, body: { name } }
        : { path: 'keep-search', body: { name, q, within } },
    ).then(told)
  }
  return (
    <Dialog
      title={kept ? 'Kept search' : 'Keep this search'}
      hint={within ? `${q}, ${within}` : q}
      icon={<Bookmark className="size-5 text-ink-2" aria-hidden />}
      onClose={onClose}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault()
          keep()
        }}
      >
        <label className="block text-[13px] text-ink-2">
          Its name, among what is put away
          <input
            autoFocus
            className="field mt-1 text-[15px] text-ink"
            value={name}
            maxLength={80}
            onFocus={(e) => e.target.select()}
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <DialogFoot>
          <button type="button" className="btn" onClick={onClose}>
            Leave it
          </button>
          {kept && (
            <button
              type="button"
              className="btn"
              onClick={() => {
                onClose()
                void carryOut({ path: 'drop-search', id: kept.id, body: {} }).then(told)
              }}
            >
              Forget it
            </button>
          )}
          <button className="btn btn-main" disabled={!name.trim()}>
            {kept ? 'Rename' : 'Keep'}
          </button>
        </DialogFoot>
      </form>
    </Dialog>
  )
}
