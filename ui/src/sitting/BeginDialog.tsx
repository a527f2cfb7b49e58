import { Hourglass } from 'lucide-react'
import { useState } from 'react'
import type { Heap } from '../api/client'
import { useOverview, useShallows } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'
import { carryOut } from '../state/commands'
import { usualMinutes } from '../state/sitting'

const times = [
  [10, '10 min'],
  [15, '15 min'],
  [25, '25 min'],
  [0, 'Until zero'],
] as const

const same = (a: Heap, b: Heap) => JSON.stringify(a) === JSON.stringify(b)

/** Asks for how long a sitting is, and of what. */
export function BeginDialog(props: { heap?: Heap; onClose: () => void; onBegun: () => void }) {
  const { data: overview } = useOverview()
  const { data: shallows } = useShallows()
  const usual = usualMinutes.get()
  const [minutes, setMinutes] = useState(usual)
  const [other, setOther] = useState(times.some(([m]) => m === usual) ? '' : String(usual))
  const inbox: Heap = { place: 'inbox' }
  const [heap, setHeap] = useState<Heap>(props.heap ?? inbox)
  const heaps: { heap: Heap; name: string; n?: number }[] = [
    ...(props.heap ? [{ heap: props.heap, name: props.heap.words ?? 'This group' }] : []),
    { heap: inbox, name: 'The inbox', n: overview?.inbox },
    { heap: { place: 'inbox', oldest: true }, name: 'The inbox, oldest first', n: overview?.inbox },
    { heap: { place: 'inbox', starred: true }, name: 'What is starred in it' },
    ...(shallows?.kinds ?? [])
      .filter((k) => k.n > 0)
      .map((k) => ({ heap: { place: 'shallows', kind: k.kind } as Heap, name: k.name, n: k.n })),
  ]
  const chosen = Number(other) || minutes
  const begin = () => {
    props.onClose()
    usualMinutes.set(chosen)
    void carryOut({ path: 'begin-sitting', body: { heap, minutes: chosen } }).then((o) => o && props.onBegun())
  }
  return (
    <Dialog title="Sitting" icon={<Hourglass className="size-5 text-tide" aria-hidden />} onClose={props.onClose}>
      <form
        onSubmit={(e) => {
          e.preventDefault()
          begin()
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && !e.repeat) {
            e.preventDefault() // also on a time that has the focus
            return begin()
          }
          const n = Number(e.key)
          const time = times[n - 1]
          if (!time || e.target instanceof HTMLInputElement) return
          e.preventDefault()
          setMinutes(time[0])
          setOther('')
        }}
      >
        <fieldset>
          <legend className="pb-1 text-[13px] font-semibold text-ink-2">How long</legend>
          <div className="flex flex-wrap gap-2">
            {times.map(([m, name], i) => (
              <button
                key={m}
                type="button"
                autoFocus={m === usual || (i === 0 && !times.some(([t]) => t === usual))}
                aria-pressed={!other && minutes === m}
                className="btn !min-h-11 aria-pressed:!border-tide aria-pressed:!bg-tide-2"
                onClick={() => {
                  setMinutes(m)
                  setOther('')
                }}
              >
                {name} <span className="key">{i + 1}</span>
              </button>
            ))}
            <label className="flex items-center gap-2 text-[14px]">
              or
              <input
                className="field w-16"
                inputMode="numeric"
                value={other}
                aria-label="Another number of minutes"
                placeholder="40"
                onChange={(e) => setOther(e.target.value.replace(/\D/g, '').slice(0, 3))}
              />
              min
            </label>
          </div>
        </fieldset>
        <fieldset className="mt-4">
          <legend className="pb-1 text-[13px] font-semibold text-ink-2">Of what</legend>
          <div className="max-h-[40vh] overflow-y-auto">
            {heaps.map((h) => (
              <label
                key={JSON.stringify(h.heap)}
                className="flex min-h-9 items-center gap-2 rounded-lg px-2 hover:bg-tide-3"
              >
                <input
                  type="radio"
                  name="heap"
                  checked={same(heap, h.heap)}
                  onChange={() => setHeap(h.heap)}
                  className="accent-tide"
                />
                <span className="flex-1">{h.name}</span>
                {h.n !== undefined && <span className="text-[13px] text-ink-3">{h.n}</span>}
              </label>
            ))}
          </div>
        </fieldset>
        <DialogFoot>
          <span className="flex-1 text-[13px] text-ink-3">One letter after the other. Undo takes anything back.</span>
          <button className="btn btn-main">
            Begin <span className="key">Enter</span>
          </button>
        </DialogFoot>
      </form>
    </Dialog>
  )
}
