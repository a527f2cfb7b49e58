import { ChevronDown } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useState } from 'react'
import { toast } from '../state/toast'
import { api, errorText, take, type Overview } from '../api/client'
import { longDay, clock } from '../state/time'
import { failed } from '../state/failed'
import { part } from '../kit/part'

/** The phone is fetched when it is wanted: outside the demo nobody does. */
const Phone = part(() => import('./Phone').then((m) => m.Phone))

const letters = [
  ['ask', 'that asks something'],
  ['bill', 'with a bill'],
  ['newsletter', 'of a list'],
  ['lists', 'of three lists that can be left'],
  ['invitation', 'with an invitation'],
  ['answer', 'that answers what you wait for'],
  ['failure', 'that could not be delivered'],
] as const

/** The demo's bar: moves the clock and sends a letter in. Outside the demo it
 * does not exist. */
export function DemoBar({ overview }: { overview: Overview | undefined }) {
  const [busy, setBusy] = useState(false)
  const [phone, setPhone] = useState(false)
  const attempt = async (call: () => Promise<unknown>) => {
    setBusy(true)
    try {
      await call()
    } catch (e) {
      failed(errorText(e, 'That did not work.'))
    }
    setBusy(false)
  }
  const move = (to: '10min' | 'hour' | 'next' | 'tomorrow') =>
    attempt(() => take(api.POST('/api/demo/clock', { body: { to } })))
  const sendIn = (kind: (typeof letters)[number][0]) =>
    attempt(async () => toast(`Sent in: “${await take(api.POST('/api/demo/letter', { body: { kind } }))}”`))
  const button = 'min-h-6 rounded px-2 hover:bg-paper/15 disabled:opacity-50'
  return (
    <aside
      aria-label="Demo"
      className="flex h-6 shrink-0 items-center gap-x-1 overflow-x-auto overflow-y-hidden bg-deep whitespace-nowrap px-3 text-[12px] text-on-deep"
    >
      <span className="px-1 font-semibold">Demo</span>
      {overview && (
        <span className="px-1 opacity-90 max-md:hidden">
          {longDay(overview.now)}, {clock(overview.now)}
        </span>
      )}
      <span className="px-1">Clock:</span>
      <button className={button} disabled={busy} onClick={() => void move('10min')}>
        +10 min
      </button>
      <button className={button} disabled={busy} onClick={() => void move('hour')}>
        +1 hour
      </button>
      <button className={button} disabled={busy} onClick={() => void move('next')}>
        to what is due next
      </button>
      <button className={button} disabled={busy} onClick={() => void move('tomorrow')}>
        tomorrow 08:20
      </button>
      <span className="mx-1 h-3 w-px bg-on-deep/40" />
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger className={`${button} flex items-center gap-1`} disabled={busy}>
          Send a letter in <ChevronDown className="size-3" aria-hidden />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className="z-50 min-w-48 rounded-[12px] border border-line bg-paper p-1.5 text-[14px] shadow-float"
          >
            {letters.map(([kind, words]) => (
              <DropdownMenu.Item
                key={kind}
                className="cursor-pointer rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2"
                onSelect={() => void sendIn(kind)}
              >
                {words}
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <button className={button} aria-pressed={phone} onClick={() => setPhone(!phone)}>
        The phone
      </button>
      {phone && <Phone onClose={() => setPhone(false)} />}
    </aside>
  )
}
