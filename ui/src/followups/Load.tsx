import { Scale } from 'lucide-react'
import type { Board } from '../api/client'

/** How much of today's free time is planned, and what makes it fit. */
export function Load({ board, onFit }: { board: Board; onFit: () => void }) {
  const over = board.planned > board.free
  return (
    <span className="flex items-center gap-2 text-[13px]">
      <span className={over ? 'text-buoy' : 'text-ink-2'}>
        Today: <b>{board.planned} min</b> planned, {board.free === 0 ? 'no time' : <b>{board.free} min</b>}{' '}
        {board.free > 0 && 'free'}
      </span>
      <span className="h-2 w-24 overflow-hidden rounded-full bg-shore-2 max-lg:hidden" aria-hidden>
        <span
          className={`block h-full ${over ? 'hatched-over bg-buoy' : 'bg-tide'}`}
          style={{
            width: `${Math.min(100, board.free > 0 ? (board.planned / board.free) * 100 : board.planned > 0 ? 100 : 0)}%`,
          }}
        />
      </span>
      {over && (
        <button className="btn btn-small" onClick={onFit}>
          <Scale className="size-3.5" aria-hidden /> Make today fit <span className="key">G</span>
        </button>
      )}
    </span>
  )
}
