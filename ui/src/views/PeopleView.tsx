import { useNavigate, useSearch } from '@tanstack/react-router'
import { Download, Upload, UserPlus } from 'lucide-react'
import { useDeferredValue, useEffect, useRef, useState } from 'react'
import type { CorrespondentRow } from '../api/client'
import { useCorrespondents } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { ContactDialog } from '../people/ContactDialog'
import { GroupPage } from '../people/GroupPage'
import { PersonPage } from '../people/PersonPage'
import { carryOut, undo, type Outcome } from '../state/commands'
import { failed } from '../state/failed'
import { useKeys } from '../state/keys'
import { useLatest } from '../state/latest'

/** VCards of more than this are not taken at once. */
const mostBytes = 8 << 20

/** Whom one writes with: found by typing, gone through by the arrows, all about one beside the list. */
export function PeopleView() {
  const { of, group: chosen } = useSearch({ strict: false }) as { of?: string; group?: number }
  const go = useNavigate()
  const [typed, setTyped] = useState('')
  const near = useDeferredValue(typed.trim())
  const { data, isError, error, refetch, isPlaceholderData } = useCorrespondents(near)
  const everybody = useCorrespondents('').data
  const group = chosen === undefined ? undefined : everybody?.groups.find((g) => g.id === chosen)
  const beside = Boolean(of ?? group)
  const [adding, setAdding] = useState(false)
  const [took, setTook] = useState<Outcome>()
  const file = useRef<HTMLInputElement>(null)
  const list = useRef<HTMLUListElement>(null)
  const rows = data?.rows ?? []
  const show = (address: string | undefined) => void go({ to: '/people', search: { of: address }, replace: true })
  const move = (by: number) => {
    const at = rows.findIndex((r) => r.address === of)
    const next = rows[at < 0 ? 0 : Math.min(Math.max(at + by, 0), rows.length - 1)]
    if (!next?.address) return
    show(next.address)
    list.current?.querySelector(`[data-address="${CSS.escape(next.address)}"]`)?.scrollIntoView({ block: 'nearest' })
  }
  // What is pressed before those are there who were typed is done once they are.
  const [wanted, setWanted] = useState<number>()
  const there = near === typed.trim() && data !== undefined && !isPlaceholderData
  const moves = useLatest(move)
  useEffect(() => {
    if (wanted === undefined || !there) return
    setWanted(undefined)
    moves(wanted)
  }, [wanted, there, moves])
  useKeys({ undo: () => void undo(), next: () => move(1), previous: () => move(-1) })
  const take = async (given: File | undefined) => {
    if (!given) return
    if (given.size > mostBytes) return failed('That file is larger than 8 MB. Divide it.')
    const bytes = new Uint8Array(await given.arrayBuffer())
    let text = ''
    for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000))
    setTook(await carryOut({ path: 'take-contacts', body: { file: btoa(text) } }))
  }
  return (
    <main className="flex min-h-0 flex-1 gap-3 px-4 pb-3 max-md:px-2" aria-label="People">
      <section
        aria-label="Whom you write with"
        className={`flex min-h-0 w-full flex-col md:w-[340px] md:shrink-0 ${beside ? 'max-md:hidden' : ''}`}
      >
        <div className="flex items-center gap-2 py-2">
          <h1 className="flex-1 text-[20px] font-bold">People</h1>
          <button
            className="btn btn-tight"
            title="Write somebody down"
            aria-label="Write somebody down"
            onClick={() => setAdding(true)}
          >
            <UserPlus className="size-4" aria-hidden />
          </button>
          <button
            className="btn btn-tight"
            title="Take vCards out of a file"
            aria-label="Take vCards out of a file"
            onClick={() => file.current?.click()}
          >
            <Upload className="size-4" aria-hidden />
          </button>
          <a
            className="btn btn-tight"
            href="/api/contacts/file"
            download
            title="Save all who are written down as vCards"
            aria-label="Save all who are written down as vCards"
          >
            <Download className="size-4" aria-hidden />
          </a>
          <input
            ref={file}
            type="file"
            accept=".vcf,text/vcard,text/x-vcard"
            aria-label="A file of vCards"
            className="hidden"
            onChange={(e) => {
              void take(e.target.files?.[0])
              e.target.value = ''
            }}
          />
        </div>
        <input
          className="field mb-2"
          type="search"
          aria-label="People by name, address or office"
          placeholder="Name, address, office"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => {
            const by = { ArrowDown: 1, ArrowUp: -1, Enter: 0 }[e.key]
            if (by === undefined) return
            e.preventDefault()
            setWanted(by)
          }}
        />
        {isError && !data && <CouldNotRead what="The people" error={error} again={() => void refetch()} />}
        {!data && !isError && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
        {data && rows.length === 0 && (
          <p className="text-ink-2">
            {typed ? 'Nobody is called that.' : 'Nobody yet: whoever writes to you, or you to them, stands here.'}
          </p>
        )}
        <div className="relative min-h-0 flex-1 overflow-y-auto" role="group" aria-label="Known" tabIndex={-1}>
          {data && data.groups.length > 0 && (
            <ul aria-label="Groups" className="pb-2">
              {data.groups.map((g) => (
                <li key={g.id}>
                  <button
                    aria-current={g.id === group?.id || undefined}
                    className={`w-full truncate rounded-lg px-2 py-1 text-left text-[13px] text-ink-2 ${g.id === group?.id ? 'bg-tide-2' : 'hover:bg-tide-3'}`}
                    onClick={() => void go({ to: '/people', search: { group: g.id }, replace: true })}
                  >
                    <b className="font-semibold text-ink">{g.name}</b> {g.members.length} together
                  </button>
                </li>
              ))}
            </ul>
          )}
          <ul ref={list}>
            {rows.map((r, i) => (
              <Row key={r.address || i} row={r} chosen={r.address === of} onChoose={() => show(r.address)} />
            ))}
          </ul>
          {(data?.more ?? 0) > 0 && (
            <p className="p-2 text-[13px] text-ink-2">{data?.more} more: type a part of the name.</p>
          )}
        </div>
      </section>
      <section
        className={`relative min-h-0 min-w-0 flex-1 overflow-y-auto rounded-[14px] border border-line bg-paper ${beside ? '' : 'max-md:hidden'}`}
        aria-label="Who it is"
        tabIndex={-1}
      >
        {beside && (
          <button className="btn btn-small m-2 md:hidden" onClick={() => show(undefined)}>
            All people
          </button>
        )}
        {group && !of && <GroupPage group={group} onChoose={show} />}
        {of && <PersonPage key={of} address={of} onBecame={show} onErased={() => show(undefined)} />}
        {!beside && (
          <p className="p-8 text-ink-2">
            Choose somebody: letters both ways, what waits between you, how fast you answer each other.{' '}
            <span className="key">J</span> <span className="key">K</span> go from one to the next;{' '}
            <span className="key">Shift P</span> comes here from any letter.
          </p>
        )}
      </section>
      {adding && (
        <ContactDialog
          name=""
          address=""
          onClose={() => setAdding(false)}
          onDone={(address) => {
            setAdding(false)
            show(address || undefined)
          }}
        />
      )}
      {took && <Took outcome={took} onClose={() => setTook(undefined)} />}
    </main>
  )
}

function Row({ row: r, chosen, onChoose }: { row: CorrespondentRow; chosen: boolean; onChoose: () => void }) {
  return (
    <li data-known>
      <button
        data-address={r.address}
        aria-current={chosen || undefined}
        disabled={!r.address}
        onClick={onChoose}
        className={`flex w-full items-baseline gap-2 rounded-lg px-2 py-1.5 text-left ${chosen ? 'bg-tide-2 text-ink-2' : 'text-ink-3 hover:bg-tide-3'}`}
      >
        <span className="min-w-0 flex-1">
          <span className="block truncate font-medium text-ink">
            {r.name}
            {r.key && <span className="pl-1.5 text-[12px] font-normal text-lamp">key person</span>}
          </span>
          {r.says !== r.name && <span className="block truncate text-[13px]">{r.says}</span>}
        </span>
        <span className="shrink-0 text-right text-[13px]">
          {r.letters > 0 && r.letters}
          <span className="block">{r.last}</span>
        </span>
      </button>
    </li>
  )
}

/** What became of a file of vCards. */
function Took({ outcome: o, onClose }: { outcome: Outcome; onClose: () => void }) {
  return (
    <Dialog title="Taken out of the file" onClose={onClose}>
      <p>
        {o.added} written down anew, {o.joined} who were there have something more.
      </p>
      {o.unread && o.unread.length > 0 && (
        <>
          <p className="pt-2 font-semibold">Not taken:</p>
          <ul className="max-h-60 overflow-y-auto text-[14px]">
            {o.unread.map((u, i) => (
              <li key={i}>
                {u.card > 0 && `Card ${u.card}`} {u.name && `“${u.name}”`}: {u.what}
              </li>
            ))}
          </ul>
        </>
      )}
      <DialogFoot>
        <button
          className="btn"
          onClick={() => {
            onClose()
            void undo()
          }}
        >
          Undo
        </button>
        <button className="btn btn-main" autoFocus onClick={onClose}>
          Good
        </button>
      </DialogFoot>
    </Dialog>
  )
}
