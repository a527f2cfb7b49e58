import { useNavigate } from '@tanstack/react-router'
import { Clock } from 'lucide-react'
import { client, conversationQuery } from '../api/queries'
import { Dialog, DialogFoot } from '../parts/Dialog'
import { Insteads } from '../parts/Insteads'
import { again, type Again, type Instead } from '../state/again'
import { startAnswer, startHandOn } from '../state/answering'
import { carryOut, told } from '../state/commands'

/** The question before something is put off once more, wherever that was tried. */
export function AgainDialog({ asked }: { asked: Again }) {
  const go = useNavigate()
  const [one, ...more] = asked.on
  const close = () => again.set(undefined)
  const instead = async (id: number, what: Instead) => {
    const c = await client.fetchQuery(conversationQuery(id))
    if (what === 'done')
      return carryOut({ path: 'decide', body: { kind: 'done', on: [{ id, last: c.last }] }, hides: [id] })
    await go({
      to: '/letter/$id',
      params: { id: String(id) },
      search: what === 'followUp' ? { ask: 'follow-up' } : {},
    })
    if (what === 'answer') startAnswer(c)
    if (what === 'handOn') startHandOn(c)
  }
  return (
    <Dialog title="Later, once more?" icon={<Clock className="size-5 text-lamp" aria-hidden />} onClose={close}>
      <p className="pb-3">{asked.reason}</p>
      {one !== undefined && more.length === 0 && (
        <Insteads
          onInstead={(what) => {
            close()
            void instead(one, what)
          }}
        />
      )}
      <button
        className="btn mt-3 w-full"
        autoFocus={more.length > 0}
        onClick={() => {
          close()
          void carryOut(asked.command).then(told)
        }}
      >
        Later all the same
      </button>
      <DialogFoot>
        <span className="text-[13px] text-ink-2">
          <span className="key">Esc</span> leave {more.length > 0 ? 'them' : 'it'} as{' '}
          {more.length > 0 ? 'they are' : 'it is'}
        </span>
      </DialogFoot>
    </Dialog>
  )
}
