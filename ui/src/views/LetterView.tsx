import { useNavigate, useParams, useSearch } from '@tanstack/react-router'
import { useState } from 'react'
import { FollowUpDialog } from '../followups/FollowUpDialog'
import { LabelDialog } from '../letters/LabelDialog'
import { LaterDialog } from '../letters/LaterDialog'
import { useConversation } from '../api/queries'
import { Deck, type DeckKey } from '../letters/Deck'
import { Sheet } from '../letters/Sheet'
import { targetOf } from '../state/listing'
import { carryOut, undo, type DecideBody } from '../state/commands'
import { letThrough } from '../state/gate'
import { useKeys } from '../state/keys'
import * as marking from '../state/marking'
import { startAnswer, startHandOn } from '../state/answering'

/** One conversation by itself: the letter behind a follow-up, or in Ahead. */
export function LetterView() {
  const { id: text } = useParams({ strict: false }) as { id: string }
  const id = Number(text)
  const { data: c } = useConversation(id)
  const go = useNavigate()
  const { ask } = useSearch({ strict: false })
  const [asking, setAsking] = useState<'later' | 'follow-up' | 'file' | 'label' | undefined>(ask)
  const back = () => history.back()
  const decide = (body: Omit<DecideBody, 'on'>) => {
    setAsking(undefined)
    if (!c) return
    void carryOut({ path: 'decide', body: { ...body, on: [targetOf(c)] }, hides: [c.id] })
    back()
  }
  const star = () => c && marking.star(c)
  const flag = () => c && marking.flag(c)
  const quiet = () => {
    if (!c) return
    marking.quieten(c)
    if (!c.quiet && c.place === 'inbox') back()
  }
  const inInbox = c?.place === 'inbox'
  const done = () => decide({ kind: inInbox ? 'done' : 'inbox' })
  useKeys({
    answer: () => c && startAnswer(c),
    handOn: () => c && startHandOn(c),
    done,
    later: () => setAsking('later'),
    followUp: () => setAsking('follow-up'),
    file: () => setAsking('file'),
    bin: () => decide({ kind: 'bin' }),
    label: () => setAsking('label'),
    star,
    flag,
    letThrough: () => c && letThrough(c.from.email),
    quiet,
    undo: () => void undo(),
    fetch: () => decide({ kind: 'inbox' }),
  })
  const off = c ? undefined : 'no letter'
  const deck: DeckKey[] = [
    {
      action: 'answer',
      name: 'Answer',
      hint: c ? `to ${c.from.name || c.from.email}` : '',
      press: () => c && startAnswer(c),
      off,
    },
    {
      action: 'done',
      name: inInbox ? 'Done' : 'To inbox',
      hint: inInbox ? 'to the archive' : 'fetch it back',
      press: done,
      off,
    },
    { action: 'later', name: 'Later', hint: c?.return ?? 'pick a time', press: () => setAsking('later'), off },
    { action: 'followUp', name: 'Follow up', hint: c?.action ?? '', press: () => setAsking('follow-up'), off },
    { action: 'handOn', name: 'Hand on', hint: 'and wait for them', press: () => c && startHandOn(c), off },
    { action: 'file', name: 'File', hint: 'under a label', press: () => setAsking('file'), off },
    { action: 'bin', name: 'Bin', hint: 'kept for 30 days', press: () => decide({ kind: 'bin' }), off },
  ]
  return (
    <>
      <main className="flex min-h-0 flex-1 flex-col px-4 max-md:px-2" aria-label="Letter">
        <div className="flex h-11 items-center gap-2">
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
          onLabel={() => setAsking('label')}
          onAgain={() => setAsking('later')}
          onSame={() => setAsking('later')}
          onQuiet={quiet}
        />
      </main>
      <Deck keys={deck} onUndo={() => void undo()} />
      {asking === 'later' && c && (
        <LaterDialog
          hint={c.title}
          putOffs={c.putOffs}
          often={c.often}
          about={{ for: c.id, count: 1 }}
          first={[c.again, c.same].filter((p) => p !== undefined)}
          onInstead={(what) => {
            setAsking(what === 'followUp' ? 'follow-up' : undefined)
            if (what === 'answer') startAnswer(c)
            if (what === 'handOn') startHandOn(c)
            if (what === 'done') decide({ kind: 'done' })
          }}
          onClose={() => setAsking(undefined)}
          onTake={(p) => decide({ kind: 'later', when: p.phrase, sure: true })}
        />
      )}
      {asking === 'follow-up' && c && (
        <FollowUpDialog
          hint={c.title}
          title={c.action}
          due={c.due ?? 'tomorrow'}
          withLetter={inInbox}
          onClose={() => setAsking(undefined)}
          conversation={c.id}
          onTake={([followUp, ...more], then) => {
            if (!followUp) return
            for (const one of more) void carryOut({ path: 'new-follow-up', body: { ...one, on: [targetOf(c)] } })
            const stay = !inInbox || then === 'stay'
            decide({ kind: 'follow-up', followUp, stay, when: !stay && then === 'later' ? followUp.due : undefined })
          }}
        />
      )}
      {(asking === 'file' || asking === 'label') && c && (
        <LabelDialog
          file={asking === 'file'}
          hint={c.title}
          onClose={() => setAsking(undefined)}
          onTake={(labels) => {
            if (asking === 'file') return decide({ kind: 'file', labels })
            setAsking(undefined)
            for (const value of labels) void carryOut({ path: 'mark', body: { on: [c.id], mark: 'label', value } })
          }}
        />
      )}
    </>
  )
}
