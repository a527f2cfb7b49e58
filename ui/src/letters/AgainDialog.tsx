import { useNavigate } from '@tanstack/react-router'
import { Clock } from 'lucide-react'
import { errorText } from '../api/client'
import { client, conversationQuery } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { Insteads } from './Insteads'
import { type Again, type Instead } from '../state/again'
import { startAnswer, startHandOn } from '../state/answering'
import { carryOut, told } from '../state/commands'
import { failed } from '../state/failed'

/** What is asked before something is done all the same: put off once more, or
 * decided though another page has decided. */
export function AgainDialog({ asked, onClose: close }: { asked: Again; onClose: () => void }) {
  const go = useNavigate()
  const [one, ...more] = asked.on
  const since = asked.kind === 'decided-since'
  const instead = async (id: number, what: Instead) => {
    const c = await client.fetchQuery(conversationQuery(id))
    if (what === 'done') {
      void carryOut({ path: 'decide', body: { kind: 'done', on: [{ id, last: c.last }] }, hides: [id] }).then(told)
      return
    }
    await go({
      to: '/letter/$id',
      params: { id: String(id) },
      search: what === 'followUp' ? { ask: 'follow-up' } : {},
    })
    if (what === 'answer') startAnswer(c)
    if (what === 'handOn') startHandOn(c)
  }
  return (
    <Dialog
      title={since ? 'Decided meanwhile' : 'Later, once more?'}
      icon={<Clock className="size-5 text-lamp" aria-hidden />}
      onClose={close}
    >
      <p className="pb-3">{asked.reason}</p>
      {!since && one !== undefined && more.length === 0 && (
        <Insteads
          onInstead={(what) => {
            close()
            instead(one, what).catch((e: unknown) => failed(errorText(e, 'The letter could not be opened.')))
          }}
        />
      )}
      <button
        className="btn mt-3 w-full"
        autoFocus={more.length > 0 && !since}
        onClick={() => {
          close()
          void carryOut(asked.command).then(told)
        }}
      >
        {since ? 'Decide it all the same' : 'Later all the same'}
      </button>
      {since && (
        <button className="btn mt-2 w-full" autoFocus onClick={close}>
          Leave {more.length > 0 ? 'them where they are' : 'it where it is'}
        </button>
      )}
      <DialogFoot>
        <span className="text-[13px] text-ink-2">
          <span className="key">Esc</span> leave {more.length > 0 ? 'them' : 'it'} as{' '}
          {more.length > 0 ? 'they are' : 'it is'}
        </span>
      </DialogFoot>
    </Dialog>
  )
}
