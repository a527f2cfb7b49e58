import { Check, ChevronDown } from 'lucide-react'
import type { ReactNode } from 'react'
import { Menu } from './Menu'

/** One of a few: the chosen one is read as a word, and opens the others. */
export function Choice<T extends string>(props: {
  label: string
  value?: T
  options: readonly (readonly [T, string])[]
  onChange: (v: T) => void
  /** Stands in the place of the chosen one. */
  shown?: ReactNode
  className?: string
}) {
  const words = props.options.find(([v]) => v === props.value)?.[1] ?? ''
  return (
    <Menu
      align="start"
      gap={4}
      buttonClass={`group flex items-center gap-1.5 text-left ${props.className ?? 'line-field'}`}
      className="max-h-72 min-w-40 overflow-y-auto"
      trigger={
        <>
          <span className="sr-only">{props.label}: </span>
          <span className="min-w-0 truncate">{props.shown ?? words}</span>
          <ChevronDown className="size-3.5 shrink-0 text-ink-3" aria-hidden />
        </>
      }
    >
      {(M) => (
        <M.RadioGroup value={props.value} onValueChange={(v) => props.onChange(v as T)}>
          {props.options.map(([v, words]) => (
            <M.RadioItem
              key={v}
              value={v}
              className="flex cursor-pointer items-center gap-4 rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2"
            >
              <span className="flex-1">{words}</span>
              <M.ItemIndicator>
                <Check className="size-4" aria-hidden />
              </M.ItemIndicator>
            </M.RadioItem>
          ))}
        </M.RadioGroup>
      )}
    </Menu>
  )
}
