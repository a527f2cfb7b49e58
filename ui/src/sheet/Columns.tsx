import type { DaysPart } from '../api/client'

interface Series {
  says: string
  tone: string
  swatch: string
  value: (p: DaysPart) => number
}

const height = 120

/** Columns side by side for each day or month; the table says the same. */
export function Columns({ title, parts, of }: { title: string; parts: DaysPart[]; of: Series[] }) {
  const high = Math.max(0, ...parts.flatMap((p) => of.map((s) => s.value(p))))
  const most = Math.max(4, high) // a single letter is no full column
  const wide = 1000 / parts.length
  const one = (wide * 0.7) / of.length
  const every = Math.ceil(parts.length / 16)
  return (
    <section aria-label={title} className="min-w-0 break-inside-avoid">
      <h2 className="flex flex-wrap items-baseline gap-x-4 text-[15px] font-semibold">
        {title}
        {of.length > 1 &&
          of.map((s) => (
            <span key={s.says} className="flex items-center gap-1.5 text-[13px] font-normal text-ink-2">
              <span aria-hidden className={`size-2.5 rounded-[3px] print-exact ${s.swatch}`} /> {s.says}
            </span>
          ))}
        {high > 0 && <span className="ml-auto text-[11px] font-normal text-ink-3">{high} at most</span>}
      </h2>
      <svg
        aria-hidden
        viewBox={`0 0 1000 ${height}`}
        preserveAspectRatio="none"
        className="mt-1 h-[120px] w-full print-exact"
      >
        {parts.map((p, i) =>
          of.map((s, n) => {
            const tall = (s.value(p) / most) * (height - 4)
            return (
              <rect
                key={p.from + s.says}
                x={i * wide + wide * 0.15 + n * one}
                y={height - tall}
                width={one * 0.92}
                height={tall}
                className={s.tone}
              />
            )
          }),
        )}
        <line x1="0" x2="1000" y1={height} y2={height} className="stroke-line" vectorEffect="non-scaling-stroke" />
      </svg>
      <div aria-hidden className="flex text-[11px] text-ink-3">
        {parts.map((p, i) => (
          <span key={p.from} className="min-w-0 flex-1 overflow-visible text-center whitespace-nowrap">
            {i % every === 0 ? p.label : ''}
          </span>
        ))}
      </div>
    </section>
  )
}
