import { useNavigate } from '@tanstack/react-router'
import { useEffect, useState } from 'react'
import { client, conversationQuery, useConversation, useSitting } from '../api/queries'
import { useDeciding, type Decide } from '../deciding/useDeciding'
import { CouldNotRead } from '../kit/CouldNotRead'
import { Deck } from '../letters/Deck'
import { readOn } from '../letters/SheetBeside'
import { Sheet } from '../letters/Sheet'
import { Account } from '../sitting/Account'
import { Progress, Sides } from '../sitting/Around'
import { Past, Ring, useRingStops } from '../sitting/Ring'
import { carryOut, decisionOn, tellDone, told, undo } from '../state/commands'
import { letThrough } from '../state/gate'
import { sittingWithout, useHidden } from '../state/hiding'
import { useKeys } from '../state/keys'
import { targetOf } from '../state/listing'
import * as marking from '../state/marking'
import { sortTo } from '../state/sorting'
import { say } from '../state/spoken'
import { serverNow, useMinute } from '../state/time'
import { composing } from '../state/writing'

/** One letter after the other, on the whole screen, until the time is up or nothing is left. */
export function SittingView() {
  const read = useSitting()
  const hidden = useHidden()
  const go = useNavigate()
  const writing = composing.use()
  useMinute()
  const [at, setAt] = useState<number>()
  const { data } = read
  const sitting = data && sittingWithout(data, hidden)
  const goes = sitting !== undefined && sitting.id !== 0 && !sitting.ended
  // The letter in sight stays until it is decided on, whatever comes.
  const row = goes ? (sitting.next.find((r) => r.id === at) ?? sitting.next[0]) : undefined
  const id = row?.id
  if (id !== at) setAt(id)
  const { data: open } = useConversation(id)
  const c = open?.id === id ? open : undefined

  useRingStops(id)
  const after = sitting?.next.filter((r) => r.id !== id).slice(0, 2)
  const ahead = after?.map((r) => r.id).join()
  useEffect(() => {
    for (const next of ahead?.split(',') ?? []) if (next) void client.prefetchQuery(conversationQuery(Number(next)))
  }, [ahead])

  const total = sitting?.total ?? 0
  const nth = total - (sitting?.left ?? 0) + 1
  const heard =
    row &&
    `${row.new ? 'New' : `${Math.min(nth, total)} of ${total}`}, from ${row.from.name || row.from.email}, ${row.title}. ${row.asks ? `Asks: ${row.ask}` : ''}`
  useEffect(() => {
    if (id !== undefined && heard) say(heard)
    // It is said once of each letter, not as the count goes down.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id])

  const decide: Decide = (body, on) => {
    void carryOut(
      decisionOn(
        body,
        on,
        on.map((t) => t.id),
      ),
    ).then((o) => {
      if (o && matchMedia('(width < 48rem)').matches) told(o)
    })
  }
  const targets = () => (c ? [targetOf(c)] : row ? [targetOf(row)] : [])
  const takeBack = () => {
    void undo().then(async (o) => {
      if (!o) return
      const now = await read.refetch()
      setAt(o.conversations?.[0] ?? now.data?.next[0]?.id) // what was skipped stands first again
    })
  }
  const deciding = useDeciding({
    targets,
    row: row ?? undefined,
    open: c,
    rowOf: () => c ?? row,
    selected: 0,
    place: row?.place,
    decide,
    stay: (body, on) => void carryOut(decisionOn(body, on)),
    write: (start) => c && start(c),
    undo: takeBack,
  })
  const { press, ask, same } = deciding
  const change = (body: { skip?: number; minutes?: number; end?: boolean }) => {
    if (!sitting) return Promise.resolve(undefined)
    return carryOut({ path: 'edit-sitting', id: sitting.id, body })
  }
  const skip = () => {
    if (id === undefined) return
    void change({ skip: id })
    setAt(sitting?.next.find((r) => r.id !== id)?.id)
  }
  const end = () => {
    void change({ end: true }).then((o) => o && tellDone(o.title))
  }
  useKeys({
    ...press,
    undo: takeBack,
    next: (e) => (e.key === 'ArrowDown' ? scroll(1) : skip()),
    previous: (e) => e.key === 'ArrowUp' && scroll(-1),
    open: () => void readOn(),
    label: () => ask('label'),
    flagWhen: () => ask('flag'),
    same: () => c && same(c),
    star: () => c && marking.star(c),
    flag: () => c && marking.flag(c),
    letThrough: () => c && letThrough(c.from.email),
    quiet: () => c && marking.quieten(c),
    toReading: () => row?.place === 'inbox' && sortTo(targets(), 'reading'),
  })
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      if (e.key !== 'Escape' || e.defaultPrevented || document.querySelector('[role=dialog], [role=menu]')) return
      if (composing.get()) return
      if (goes) end()
      else void go({ to: '/inbox' })
    }
    addEventListener('keydown', keys)
    return () => removeEventListener('keydown', keys)
  })

  if (read.isError && !data)
    return <CouldNotRead what="The sitting" error={read.error} again={() => void read.refetch()} />
  if (!sitting) return <div aria-busy className="m-4 flex-1 animate-pulse rounded-[14px] bg-shore-2" />
  if (!goes) return <Account sitting={sitting} />
  const up = sitting.until && serverNow() >= new Date(sitting.until)
  const answering = writing !== undefined && (writing.conversation === id || writing.conversation === undefined)
  return (
    <>
      <Progress sitting={sitting} onSkip={row && skip} onEnd={end} />
      {up && row && (
        <p
          role="status"
          className="mx-4 mb-2 flex flex-wrap items-center gap-3 rounded-[12px] bg-lamp-2 px-3 py-1.5 text-lamp"
        >
          The time is up. {sitting.left} left.
          <button className="btn btn-small text-ink" onClick={() => void change({ minutes: 10 })}>
            10 minutes more
          </button>
          <button className="btn btn-small text-ink" onClick={end}>
            End sitting
          </button>
        </p>
      )}
      {id !== undefined && !answering && (
        <Past id={id} seconds={sitting.ring} onLater={press.later} onFollowUp={press.followUp} />
      )}
      <main aria-label="Sitting" className="flex min-h-0 flex-1 gap-5 px-4 max-md:px-0">
        {!answering && <Sides sitting={sitting} at={id} onSkip={skip} />}
        <div className={`mx-auto flex min-h-0 min-w-0 flex-1 flex-col ${answering ? 'pb-3' : 'max-w-[780px]'}`}>
          {row ? (
            <Sheet
              id={id}
              onStar={() => c && marking.star(c)}
              onFlag={() => c && marking.flag(c)}
              onLabel={() => ask('label')}
              onAgain={(l) => ask('later', [targetOf(l)], { row: l, again: l.again })}
              onSame={same}
              onQuiet={() => c && marking.quieten(c)}
            />
          ) : (
            <AtZero sitting={sitting} onEnd={end} />
          )}
        </div>
        {!answering && (
          <aside aria-label="Beside the letter" className="w-[210px] shrink-0 overflow-y-auto max-lg:hidden">
            {id !== undefined && (
              <Ring id={id} seconds={sitting.ring} onLater={press.later} onFollowUp={press.followUp} />
            )}
          </aside>
        )}
      </main>
      {!answering && <Deck keys={deciding.deck} routines={deciding.routines} onUndo={takeBack} />}
      {deciding.dialogs}
    </>
  )
}

/** Nothing is left in the sitting. */
function AtZero({ sitting, onEnd }: { sitting: { passed: number; heap: string }; onEnd: () => void }) {
  return (
    <div className="grid flex-1 place-content-center gap-3 text-center" role="status">
      <p className="serif !text-[28px]">
        {sitting.passed > 0 ? `All but ${sitting.passed} that you skipped` : 'Nothing is left'}
      </p>
      <p className="text-ink-2">That was {sitting.heap}.</p>
      <button className="btn btn-main justify-self-center" autoFocus onClick={onEnd}>
        End sitting
      </button>
    </div>
  )
}

function scroll(by: 1 | -1) {
  document.querySelector('[data-letters]')?.scrollBy({ top: by * 80 })
}
