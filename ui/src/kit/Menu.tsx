import type { DropdownMenu } from 'radix-ui'
import { useRef, useState, type ComponentProps, type ReactNode } from 'react'

export type Parts = typeof DropdownMenu

let fetched: Parts | undefined

/** Fetches what menus are made of; the page is drawn without. */
export const fetchMenus = () => import('./menuParts').then((m) => (fetched = m.parts))

const shape = 'z-50 rounded-[12px] border border-line bg-paper p-1.5 shadow-float'

/** A button that opens a menu. Until that is wanted it is only the button. */
export function Menu({
  trigger,
  align = 'end',
  gap = 6,
  className = 'min-w-44',
  children,
  ...button
}: Omit<ComponentProps<'button'>, 'children'> & {
  trigger: ReactNode
  align?: 'start' | 'end'
  gap?: number
  /** Of the menu; that of the button is buttonClass. */
  className?: string
  buttonClass: string
  children: (parts: Parts) => ReactNode
}) {
  const { buttonClass, ...more } = button
  const [open, setOpen] = useState(false)
  // What is in hand stays what it is: a button that has the focus is not changed for another.
  const [M, setParts] = useState(() => fetched)
  const byKeys = useRef(false)
  if (!M) {
    const want = (keys: boolean) => {
      byKeys.current = keys
      void fetchMenus().then(
        (parts) => {
          setParts(() => parts)
          setOpen(true)
        },
        () => undefined,
      )
    }
    return (
      <button
        type="button"
        aria-haspopup="menu"
        aria-expanded={false}
        {...more}
        className={buttonClass}
        onClick={(e) => want(e.detail === 0)}
        onKeyDown={(e) => {
          if (e.key !== 'ArrowDown') return
          e.preventDefault()
          want(true)
        }}
      >
        {trigger}
      </button>
    )
  }
  // Whoever came by keys is at its first item, also the first time, when what menus are
  // made of has not seen the key.
  const entered = (menu: HTMLElement | null) => {
    if (!menu || !byKeys.current) return
    byKeys.current = false
    setTimeout(() => {
      for (const item of menu.querySelectorAll<HTMLElement>('[role^=menuitem]')) {
        item.focus()
        if (document.activeElement === item) return // some are of other screens
      }
    })
  }
  return (
    <M.Root modal={false} open={open} onOpenChange={setOpen}>
      <M.Trigger type="button" {...more} className={buttonClass}>
        {trigger}
      </M.Trigger>
      <M.Portal>
        <M.Content align={align} sideOffset={gap} className={`${shape} ${className}`} ref={entered}>
          {children(M)}
        </M.Content>
      </M.Portal>
    </M.Root>
  )
}
