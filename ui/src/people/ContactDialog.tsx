import { useState } from 'react'
import type { ContactView } from '../api/client'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { carryOut, told } from '../state/commands'

/** What is written down of somebody, to be changed. */
export function ContactDialog(props: {
  contact?: ContactView
  name: string
  address: string
  onClose: () => void
  onDone: (address: string) => void
}) {
  const was = props.contact
  const [name, setName] = useState(was?.name ?? props.name)
  const [emails, setEmails] = useState((was?.emails ?? [props.address]).join('\n'))
  const [phones, setPhones] = useState(was?.phones.join('\n') ?? '')
  const [org, setOrg] = useState(was?.org ?? '')
  const [note, setNote] = useState(was?.note ?? '')
  const write = async () => {
    const body = { name, org, note, emails: emails.split('\n'), phones: phones.split('\n') }
    const done = await carryOut(was ? { path: 'edit-contact', id: was.id, body } : { path: 'new-contact', body })
    if (!told(done)) return
    props.onDone(done?.address ?? '')
  }
  return (
    <Dialog title="Written down" hint={props.address || undefined} onClose={props.onClose}>
      <form
        className="grid gap-3 sm:grid-cols-2"
        onSubmit={(e) => {
          e.preventDefault()
          void write()
        }}
      >
        <label className="grid gap-1">
          <span className="text-[13px] text-ink-2">Name</span>
          <input className="field" autoFocus maxLength={200} value={name} onChange={(e) => setName(e.target.value)} />
        </label>
        <label className="grid gap-1">
          <span className="text-[13px] text-ink-2">Belongs to</span>
          <input className="field" maxLength={200} value={org} onChange={(e) => setOrg(e.target.value)} />
        </label>
        <label className="grid gap-1">
          <span className="text-[13px] text-ink-2">Addresses, one a line</span>
          <textarea className="field min-h-16" value={emails} onChange={(e) => setEmails(e.target.value)} />
        </label>
        <label className="grid gap-1">
          <span className="text-[13px] text-ink-2">Telephones, one a line</span>
          <textarea className="field min-h-16" value={phones} onChange={(e) => setPhones(e.target.value)} />
        </label>
        <label className="grid gap-1 sm:col-span-2">
          <span className="text-[13px] text-ink-2">Note</span>
          <textarea
            className="field min-h-20"
            maxLength={20_000}
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
        </label>
        <div className="sm:col-span-2">
          <DialogFoot>
            <button type="button" className="btn" onClick={props.onClose}>
              Leave it <span className="key">Esc</span>
            </button>
            <button type="submit" className="btn btn-main">
              Write down <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Enter</span>
            </button>
          </DialogFoot>
        </div>
      </form>
    </Dialog>
  )
}
