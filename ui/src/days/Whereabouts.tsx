import { MapPin } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { useSpots } from '../api/queries'
import { carryOut, told } from '../state/commands'

const item = 'flex cursor-pointer items-center gap-6 rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2'

/** The named places to be at, in a menu. */
export function Spots() {
  const { data } = useSpots()
  if (!data || data.spots.length === 0) return null
  const be = (spot: number) => void carryOut({ path: 'be-at', body: { spot } }).then(told)
  return (
    <DropdownMenu.RadioGroup value={String(data.at)} onValueChange={(v) => be(Number(v))}>
      <DropdownMenu.Label className="px-3 py-1 text-[13px] text-ink-3">Where you are</DropdownMenu.Label>
      {[...data.spots, { id: 0, name: 'No place in particular', waiting: 0 }].map((s) => (
        <DropdownMenu.RadioItem key={s.id} value={String(s.id)} className={item}>
          <span className="flex-1">{s.name}</span>
          {s.waiting > 0 && <span className="text-[13px] text-ink-3">{s.waiting} wait</span>}
          <DropdownMenu.ItemIndicator>✓</DropdownMenu.ItemIndicator>
        </DropdownMenu.RadioItem>
      ))}
    </DropdownMenu.RadioGroup>
  )
}

/** Where the person is; only there once they have named places. */
export function Whereabouts() {
  const { data } = useSpots()
  if (!data || data.spots.length === 0) return null
  const here = data.spots.find((s) => s.id === data.at)
  const said = here ? `You are at ${here.name}` : 'Where are you?'
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger className="btn shrink-0 btn-tight max-md:hidden" aria-label={said} title={said}>
        <MapPin className="size-4" aria-hidden />
        {here && <span className="max-w-24 truncate max-xl:sr-only">{here.name}</span>}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-50 min-w-48 rounded-[12px] border border-line bg-paper p-1.5 shadow-float"
        >
          <Spots />
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
