import { Check, ChevronDown } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import type { ReactNode } from 'react'

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
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger
        type="button"
        className={`group flex items-center gap-1.5 text-left ${props.className ?? 'line-field'}`}
      >
        <span className="sr-only">{props.label}: </span>
        <span className="min-w-0 truncate">{props.shown ?? words}</span>
        <ChevronDown className="size-3.5 shrink-0 text-ink-3" aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={4}
          className="z-50 max-h-72 min-w-40 overflow-y-auto rounded-[12px] border border-line bg-paper p-1.5 shadow-float"
        >
          <DropdownMenu.RadioGroup value={props.value} onValueChange={(v) => props.onChange(v as T)}>
            {props.options.map(([v, words]) => (
              <DropdownMenu.RadioItem
                key={v}
                value={v}
                className="flex cursor-pointer items-center gap-4 rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2"
              >
                <span className="flex-1">{words}</span>
                <DropdownMenu.ItemIndicator>
                  <Check className="size-4" aria-hidden />
                </DropdownMenu.ItemIndicator>
              </DropdownMenu.RadioItem>
            ))}
          </DropdownMenu.RadioGroup>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
