import { keyName } from '../state/keys'

/** A routine as a key of the deck's second row: what it would do now. */
export interface RoutineKey {
  id: number
  name: string
  keys: string
  hint: string
  off?: string
  press: () => void
}

/** The second row of the deck: routines, in large keys, there only where there are any. */
export function RoutineRow({ routines, shown }: { routines: RoutineKey[]; shown: boolean }) {
  if (routines.length === 0) return null
  return (
    <div
      role="toolbar"
      aria-label="Routines"
      className={`flex shrink-0 gap-2 overflow-x-auto px-4 pt-2 max-md:px-2 [&+footer]:pt-1.5 ${shown ? '' : 'max-md:hidden'}`}
    >
      {routines.map((r) => (
        <button
          key={r.id}
          onClick={r.press}
          title={r.off ?? r.hint}
          aria-disabled={r.off !== undefined}
          className="flex min-h-[44px] max-w-[340px] min-w-[150px] flex-1 items-center gap-2 rounded-[12px] border border-dashed border-ink-3 bg-paper px-2.5 text-left hover:bg-tide-3 aria-disabled:opacity-60"
        >
          <span className="min-w-0 flex-1">
            <span className="block truncate text-[14px] leading-tight font-semibold">{r.name}</span>
            <span className={`block truncate text-[12px] leading-tight ${r.off ? 'text-buoy' : 'text-ink-3'}`}>
              {r.off ?? r.hint}
            </span>
          </span>
          {r.keys && <span className="key shrink-0 max-md:hidden">{keyName(r.keys)}</span>}
        </button>
      ))}
    </div>
  )
}
