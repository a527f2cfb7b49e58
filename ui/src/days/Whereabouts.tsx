import { MapPin } from 'lucide-react'
import { useSpots } from '../api/queries'
import { Menu, type Parts } from '../kit/Menu'
import { carryOut, told } from '../state/commands'

const item = 'flex cursor-pointer items-center gap-6 rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2'

/** The named places to be at, in a menu. */
export function Spots({ parts: M }: { parts: Parts }) {
  const { data } = useSpots()
  if (!data || data.spots.length === 0) return null
  const be = (spot: number) => void carryOut({ path: 'be-at', body: { spot } }).then(told)
  return (
    <M.RadioGroup value={String(data.at)} onValueChange={(v) => be(Number(v))}>
      <M.Label className="px-3 py-1 text-[13px] text-ink-3">Where you are</M.Label>
      {[...data.spots, { id: 0, name: 'No place in particular', waiting: 0 }].map((s) => (
        <M.RadioItem key={s.id} value={String(s.id)} className={item}>
          <span className="flex-1">{s.name}</span>
          {s.waiting > 0 && <span className="text-[13px] text-ink-3">{s.waiting} wait</span>}
          <M.ItemIndicator>✓</M.ItemIndicator>
        </M.RadioItem>
      ))}
    </M.RadioGroup>
  )
}

/** Where the person is; only there once they have named places. */
export function Whereabouts() {
  const { data } = useSpots()
  if (!data || data.spots.length === 0) return null
  const here = data.spots.find((s) => s.id === data.at)
  const said = here ? `You are at ${here.name}` : 'Where are you?'
  return (
    <Menu
      buttonClass="btn shrink-0 btn-tight max-md:hidden"
      aria-label={said}
      title={said}
      className="min-w-48"
      trigger={
        <>
          <MapPin className="size-4" aria-hidden />
          {here && <span className="max-w-24 truncate max-xl:sr-only">{here.name}</span>}
        </>
      }
    >
      {(M) => <Spots parts={M} />}
    </Menu>
  )
}
