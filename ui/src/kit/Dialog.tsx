import { Dialog as Radix } from 'radix-ui'
import { useState, type ReactNode } from 'react'
import { giveFocus } from '../state/focus'

/** A window over the page. Escape and a click beside it leave it. */
export function Dialog(props: {
  title: ReactNode
  hint?: string
  icon?: ReactNode
  wide?: boolean
  onClose: () => void
  children: ReactNode
}) {
  // What had the focus before anything in here took it.
  const [before] = useState(() => document.activeElement)
  return (
    <Radix.Root open onOpenChange={(open) => !open && props.onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/35" />
        <Radix.Content
          aria-describedby={undefined}
          onCloseAutoFocus={(e) => {
            e.preventDefault()
            // Where one dialog follows another, the focus is the other's.
            if (!document.querySelector('[role=dialog]')) giveFocus(before)
          }}
          className={`appear fixed top-[9vh] left-1/2 z-50 flex max-h-[84vh] w-[calc(100vw-24px)] -translate-x-1/2 flex-col overflow-auto rounded-[14px] bg-paper p-5 shadow-float ${props.wide ? 'max-w-3xl' : 'max-w-[620px]'}`}
        >
          <Radix.Title className="mb-3 flex items-center gap-2 text-[17px] font-semibold [&>svg]:shrink-0">
            {props.icon}
            <span className={`shrink-0 ${props.icon ? 'max-w-[calc(100%-2rem)]' : 'max-w-full'}`}>{props.title}</span>
            {props.hint && <span className="truncate text-[13px] font-normal text-ink-3">{props.hint}</span>}
          </Radix.Title>
          {props.children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}

/** The line at the foot of a dialog that says which keys do what. */
export function DialogFoot({ children }: { children: ReactNode }) {
  return <div className="mt-4 flex flex-wrap items-center justify-end gap-2 border-t border-line pt-3">{children}</div>
}
