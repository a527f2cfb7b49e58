import { useNavigate, useParams, useSearch } from '@tanstack/react-router'
import { useEffect, useRef } from 'react'
import { useConversation } from '../api/queries'
import { Deck } from '../letters/Deck'
import { Sheet } from '../letters/Sheet'
import { useDeciding, type Decide } from '../deciding/useDeciding'
import { targetOf } from '../state/listing'
import { carryOut, decisionOn, undo } from '../state/commands'
import { letThrough } from '../state/gate'
import { ruleOfLetter } from '../state/rules'
import { useKeys } from '../state/keys'
import * as marking from '../state/marking'
import { composing } from '../state/writing'

/** One conversation by itself: the letter behind a follow-up, or in Ahead. */
export function LetterView() {
  const { id: text } = useParams({ strict: false }) as { id: string }
  const id = Number(text)
  const { data: c } = useConversation(id)
  const go = useNavigate()
  const { ask } = useSearch({ strict: false })
  const back = () => history.back()
  const decide: Decide = (body, on) => {
    void carryOut(
      decisionOn(
        body,
        on,
        on.map((t) => t.id),
      ),
    )
    back()
  }
  const inInbox = c?.place === 'inbox'
  const deciding = useDeciding({
    targets: () => (c ? [targetOf(c)] : []),
    row: c,
    open: c,
    rowOf: () => c,
    selected: 0,
    decide,
    stay: decide,
    keeps: !inInbox,
    write: (start) => c && start(c),
    undo: () => void undo(),
  })
  const { press, ask: asks, same } = deciding
  const asked = useRef(false)
  useEffect(() => {
    if (!ask || !c || asked.current) return
    asked.current = true
    asks(ask)
  })
  const star = () => c && marking.star(c)
  const flag = () => c && marking.flag(c)
  const quiet = () => {
    if (!c) return
    marking.quieten(c)
    if (!c.quiet && inInbox) back()
  }
  useKeys({
    ...press,
    label: () => asks('label'),
    flagWhen: () => asks('flag'),
    same: () => c && same(c),
    star,
    flag,
    letThrough: () => c && letThrough(c.from.email),
    ruleOf: () => c && void ruleOfLetter(c.id, () => go({ to: '/rules' })),
    whoWrote: () => c?.from.email && void go({ to: '/people', search: { of: c.from.email } }),
    quiet,
    undo: () => void undo(),
  })
  const writing = composing.use()
  const answering = writing !== undefined && (writing.conversation === id || writing.conversation === undefined)
  return (
    <>
      <main className={`flex min-h-0 flex-1 flex-col px-4 max-md:px-2 ${answering ? 'pb-3' : ''}`} aria-label="Letter">
        <div className={`h-11 items-center gap-2 ${answering ? 'hidden' : 'flex'}`}>
          <button className="btn btn-small" onClick={back}>
            Back
          </button>
          {c && <span className="chip">in {c.place === 'later' ? 'Ahead' : c.place}</span>}
          {c?.place === 'inbox' && (
            <button className="btn btn-small" onClick={() => void go({ to: '/inbox' })}>
              Show the inbox
            </button>
          )}
        </div>
        <Sheet
          id={id}
          onStar={star}
          onFlag={flag}
          onLabel={() => asks('label')}
          onAgain={(l) => asks('later', [targetOf(l)], { row: l, again: l.again })}
          onSame={same}
          onQuiet={quiet}
        />
      </main>
      {!answering && <Deck keys={deciding.deck} routines={deciding.routines} onUndo={() => void undo()} />}
      {deciding.dialogs}
    </>
  )
}
