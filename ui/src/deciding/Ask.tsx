import { part } from '../kit/part'
import { Flag } from 'lucide-react'
import type { Conversation, Proposal, Row } from '../api/client'
import { client } from '../api/queries'
import type { Instead } from '../state/again'
import { carryOut, told, type DecideBody } from '../state/commands'
import type { Targets } from '../state/listing'

const FollowUpDialog = part(() => import('../followups/FollowUpDialog').then((m) => m.FollowUpDialog))
const LabelDialog = part(() => import('../letters/LabelDialog').then((m) => m.LabelDialog))
const PhraseDialog = part(() => import('../days/PhraseDialog').then((m) => m.PhraseDialog))
const LaterDialog = part(() => import('../letters/LaterDialog').then((m) => m.LaterDialog))

/** What is asked, of which letters; the row is that of the first. */
export interface Asking {
  what: 'later' | 'follow-up' | 'file' | 'label' | 'flag'
  on: Targets
  row?: Row | Conversation
  again?: Proposal
}

/** The dialog that asks for what a decision or a mark needs. */
export function Ask(props: {
  asking: Asking
  /** Whether a letter stays where it is when a follow-up is made of it. */
  keeps?: boolean
  onClose: () => void
  onDecide: (body: Omit<DecideBody, 'on'>) => void
  onStay: (body: Omit<DecideBody, 'on'>) => void
  onLabel: (labels: string[]) => void
  onInstead: (what: Instead) => void
}) {
  const { asking, onClose, onDecide } = props
  const { on } = asking
  const row = on.length === 1 ? asking.row : undefined
  const hint = on.length > 1 ? `${on.length} letters` : (row?.title ?? '')
  switch (asking.what) {
    case 'later':
      return (
        <LaterDialog
          hint={hint}
          putOffs={row?.putOffs}
          often={row?.often}
          first={[asking.again, asking.row?.again, asking.row?.same].filter((p) => p !== undefined)}
          about={{ for: on[0]?.id, count: on.length }}
          spread={on.map((t) => t.id)}
          sender={on.length > 1 ? 'the senders' : row && (row.from.name || row.from.email)}
          onClose={onClose}
          onTake={(p, tell) =>
            // Of a single letter the dialog has asked whether it is to be put off once more.
            onDecide({
              kind: 'later',
              when: p.phrase,
              ...(tell ? { tell } : {}),
              ...(on.length === 1 ? { sure: true } : {}),
            })
          }
          onSpread={(each) => onDecide({ kind: 'later', each })}
          onInstead={props.onInstead}
        />
      )
    case 'follow-up': {
      const one = row && client.getQueryData<Conversation>(['conversation', row.id])
      return (
        <FollowUpDialog
          hint={hint}
          title={on.length > 1 ? `See to ${on.length} letters` : (one?.action ?? row?.title ?? '')}
          due={one?.due ?? 'tomorrow'}
          withLetter={!props.keeps}
          onClose={onClose}
          conversation={row?.id}
          onTake={([followUp, ...more], then) => {
            if (!followUp) return
            // Several of what a letter asks: the decision makes the first one.
            for (const one of more) void carryOut({ path: 'new-follow-up', body: { ...one, on } })
            const body = { kind: 'follow-up' as const, followUp }
            if (props.keeps || then === 'stay') props.onStay({ ...body, stay: true })
            else onDecide(then === 'later' && followUp.due ? { ...body, when: followUp.due } : body)
          }}
        />
      )
    }
    case 'flag':
      return (
        <PhraseDialog
          title="Flag"
          hint={hint}
          icon={<Flag className="size-5 text-lamp" aria-hidden />}
          label="Due, or from start to due, and reminders"
          placeholder="tomorrow to fri, remind thu 10"
          about={{ plain: true, as: 'times' }}
          onClose={onClose}
          onTake={(p) => {
            onClose()
            void carryOut({ path: 'flag', body: { on, when: p.phrase } }).then(told)
          }}
        />
      )
    default:
      return (
        <LabelDialog
          file={asking.what === 'file'}
          hint={hint}
          onClose={onClose}
          onTake={(labels) => (asking.what === 'file' ? onDecide({ kind: 'file', labels }) : props.onLabel(labels))}
        />
      )
  }
}
