import { Tag } from 'lucide-react'
import type { LabelView } from '../api/client'
import { labelLooks } from '../state/labelled'
import { AccountMark } from './Marks'

/** How a label looks: a shape with a colour, or as most do. */
export function LabelMark({ look }: { look: Pick<LabelView, 'name' | 'colour' | 'shape'> | undefined }) {
  if (!look?.colour) return <Tag className="size-3.5" aria-hidden />
  return <AccountMark hidden account={{ label: look.name, colour: look.colour, shape: look.shape }} />
}

/** A label's name, with its mark where it has one. */
export function LabelName({ name }: { name: string }) {
  const look = labelLooks.useOf((all) => all.get(name))
  return (
    <>
      {look && <LabelMark look={look} />}
      {name}
    </>
  )
}
