import type { ReactNode } from 'react'
import type { Proposal } from '../api/client'
import type { PhraseFor } from '../api/queries'
import { Dialog } from '../kit/Dialog'
import { PhraseBox } from './PhraseBox'

/** Asks for a time and nothing else. */
export function PhraseDialog(props: {
  title: string
  hint?: string
  icon?: ReactNode
  label: string
  placeholder?: string
  about: PhraseFor
  onTake: (p: Proposal) => void
  onClose: () => void
}) {
  return (
    <Dialog title={props.title} hint={props.hint} icon={props.icon} onClose={props.onClose}>
      <PhraseBox label={props.label} placeholder={props.placeholder} about={props.about} onTake={props.onTake} />
    </Dialog>
  )
}
