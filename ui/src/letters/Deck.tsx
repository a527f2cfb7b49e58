import { Check, Clock, CornerUpLeft, Forward, FolderDown, ListChecks, Trash2, Undo2 } from 'lucide-react'
import { memo, type ReactNode } from 'react'
import { useOverview } from '../api/queries'
import { density } from '../state/density'
import type { DeckAction } from '../state/decisions'
import { keyName, useKeyOf } from '../state/keys'
import { RoutineRow, type RoutineKey } from './RoutineRow'

export interface DeckKey {
  action: DeckAction
  name: string
  hint: string
  press: () => void
  off?: string
  /** It is foretold: with what it is taken, from what that was learned, and whether one key takes it. */
  likely?: { words: string; reason: string; taken: boolean }
}

const none: RoutineKey[] = []

/** What each key looks like. */
const looks: Record<DeckAction, { icon: ReactNode; edge: string }> = {
  answer: { icon: <CornerUpLeft className="text-tide" />, edge: 'border-b-tide' },
  done: { icon: <Check className="text-kelp" />, edge: 'border-b-kelp' },
  later: { icon: <Clock className="text-lamp" />, edge: 'border-b-lamp' },
  followUp: { icon: <ListChecks className="text-buoy" />, edge: 'border-b-buoy' },
  handOn: { icon: <Forward className="text-heather" />, edge: 'border-b-heather' },
  file: { icon: <FolderDown className="text-ink-2" />, edge: 'border-b-ink-2' },
  bin: { icon: <Trash2 className="text-ink-2" />, edge: 'border-b-ink-2' },
}

/** The decision deck: large keys, each of which says what it would do now. */
export const Deck = memo(function Deck({
  keys,
  routines = none,
  onUndo,
  shown = true,
}: {
  keys: DeckKey[]
  routines?: RoutineKey[]
  onUndo: () => void
  shown?: boolean
}) {
  const keyOf = useKeyOf()
  const { data: overview } = useOverview()
  const compact = density.use() === 'compact'
  const height = compact ? 'min-h-[40px] max-md:min-h-[44px]' : 'min-h-[52px]'
  return (
    <>
      <RoutineRow routines={routines} shown={shown} />
      <footer
        aria-label="Decisions"
        role="toolbar"
        className={`grid shrink-0 grid-cols-4 gap-1.5 px-4 ${compact ? 'py-0.5' : 'pt-2 pb-3'} max-md:px-2 md:flex md:gap-2 ${shown ? '' : 'max-md:hidden'}`}
      >
        {keys.map((k) => (
          <button
            key={k.action}
            onClick={k.press}
            disabled={k.off !== undefined}
            title={k.off ?? (k.likely && `Likely: ${k.likely.reason}`)}
            data-likely={k.likely ? true : undefined}
            className={`relative flex ${height} min-w-0 items-center gap-2 rounded-[12px] border border-b-2 border-line bg-paper px-2.5 text-left hover:bg-tide-3 disabled:opacity-50 max-md:flex-col max-md:justify-center max-md:gap-0.5 max-md:px-1 max-md:text-center md:flex-1 ${looks[k.action].edge} ${k.likely ? 'outline-2 -outline-offset-2 outline-tide' : ''}`}
          >
            <span className="shrink-0 [&_svg]:size-5 max-md:[&_svg]:size-4" aria-hidden>
              {looks[k.action].icon}
            </span>
            <span className="min-w-0 flex-1">
              <span className="flex items-center gap-1">
                <span className="min-w-0 flex-1 truncate text-[14.5px] leading-tight font-semibold max-md:text-[13px]">
                  {k.name}
                </span>
                {k.likely?.taken && keyOf('foretold') && (
                  <span className="key shrink-0 !bg-tide-2 !text-tide max-md:hidden">{keyName(keyOf('foretold'))}</span>
                )}
                {keyOf(k.action) && <span className="key shrink-0 max-md:hidden">{keyName(keyOf(k.action))}</span>}
              </span>
              <span
                className={`block truncate text-[12.5px] leading-tight text-ink-3 max-md:hidden ${compact ? 'sr-only' : ''}`}
              >
                {k.off ?? (k.likely?.words || k.hint)}
              </span>
              {k.likely && <span className="sr-only">, likely: {k.likely.reason}</span>}
            </span>
          </button>
        ))}
        <button
          onClick={onUndo}
          disabled={!overview?.undo}
          className={`flex ${height} w-[104px] min-w-0 flex-col justify-center rounded-[12px] px-2 text-left hover:bg-paper disabled:opacity-50 max-md:w-auto max-md:items-center`}
          title={overview?.undo ? `Undo: ${overview.undo}` : 'Nothing to undo'}
        >
          <span className="flex items-center gap-1.5 text-[13px] font-medium">
            <Undo2 className="size-4" aria-hidden /> Undo{' '}
            {keyOf('undo') && <span className="key max-md:hidden">{keyName(keyOf('undo'))}</span>}
          </span>
          <span className="block w-full truncate text-[12px] text-ink-3 max-md:hidden">
            {overview?.undo || 'nothing yet'}
          </span>
        </button>
      </footer>
    </>
  )
})
