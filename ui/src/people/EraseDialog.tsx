import { useState } from 'react'
import { useErasing } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { carryOut, told } from '../state/commands'

/** What erasing somebody takes away and leaves, and the word that does it: their address, typed. */
export function EraseDialog(props: { address: string; onClose: () => void; onErased: () => void }) {
  const { data: e, isError, error, refetch, isFetching } = useErasing(props.address)
  const [typed, setTyped] = useState('')
  const [servers, setServers] = useState(false)
  const [busy, setBusy] = useState(false)
  const meant = e !== undefined && typed.trim().toLowerCase() === e.address
  const erase = async () => {
    if (!e || !meant || busy || isFetching) return
    setBusy(true)
    const done = await carryOut({ path: 'erase', body: { address: e.address, seal: e.seal, servers } })
    setBusy(false)
    if (told(done)) props.onErased()
    else void refetch()
  }
  return (
    <Dialog title="Erase for good" hint={e?.name} onClose={props.onClose}>
      {isError && !e && <CouldNotRead what="What would go" error={error} again={() => void refetch()} />}
      {!e && !isError && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {e && (
        <form
          onSubmit={(ev) => {
            ev.preventDefault()
            void erase()
          }}
        >
          <section aria-label="What goes" className="border-l-4 border-buoy pl-3">
            <h3 className="text-[13px] font-semibold text-buoy">Goes, and can’t be brought back</h3>
            <ul>
              {e.goes.map((g) => (
                <li key={g} className="list-item ml-4 list-disc py-px break-words">
                  {g}
                </li>
              ))}
            </ul>
          </section>
          <section aria-label="What stays" className="mt-3 border-l-4 border-line pl-3">
            <h3 className="text-[13px] font-semibold text-ink-2">Stays</h3>
            <ul className="text-ink-2">
              {e.stays.map((s) => (
                <li key={s} className="list-item ml-4 list-disc py-px break-words">
                  {s}
                </li>
              ))}
            </ul>
          </section>
          {(e.copies ?? 0) > 0 && (
            <label className="mt-3 flex items-baseline gap-2">
              <input type="checkbox" checked={servers} onChange={(ev) => setServers(ev.target.checked)} />
              <span>
                Take the {e.copies === 1 ? 'copy' : `${e.copies} copies`} on the mail server away too. Left there, they
                don’t come here again.
              </span>
            </label>
          )}
          <label className="mt-4 grid gap-1">
            <span className="text-[13px] text-ink-2">
              To erase them, type <strong className="font-semibold break-all text-ink">{e.address}</strong>
            </span>
            <input
              className="field"
              autoFocus
              autoComplete="off"
              autoCapitalize="none"
              spellCheck={false}
              value={typed}
              onChange={(ev) => setTyped(ev.target.value)}
            />
          </label>
          <DialogFoot>
            <button type="button" className="btn" onClick={props.onClose}>
              Leave it <span className="key">Esc</span>
            </button>
            <button type="submit" className="btn btn-main" disabled={!meant || busy}>
              Erase for good
            </button>
          </DialogFoot>
        </form>
      )}
    </Dialog>
  )
}
