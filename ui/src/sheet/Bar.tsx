import type { SheetBar } from '../api/client'

/** The tone of a part: of how it came, or of what was decided. */
const tones: Record<string, string> = {
  round: 'bg-tide',
  once: 'bg-tide',
  through: 'bg-buoy',
  back: 'bg-kelp',
  shallows: 'bg-ink-3',
  refused: 'bg-ink-2',
  purged: 'bg-line',
  answer: 'bg-tide',
  done: 'bg-kelp',
  later: 'bg-lamp',
  'follow-up': 'bg-buoy',
  'hand-on': 'bg-heather',
  file: 'bg-ink-2',
  bin: 'bg-ink-3',
}

/** A whole and its parts: how large each is, beside its name and number. */
export function Parts({ name, of }: { name: string; of: SheetBar }) {
  return (
    <section aria-label={name} className="min-w-0 break-inside-avoid">
      <h2 className="text-[15px] font-semibold">
        {name} <span className="font-normal text-ink-3">{of.n}</span>
      </h2>
      {of.n > 0 && (
        <>
          <div aria-hidden className="mt-1.5 flex h-5 gap-0.5 overflow-hidden rounded-md">
            {of.parts.map((p) => (
              <span
                key={p.says}
                className={`min-w-1 print-exact ${tones[p.key] ?? 'bg-ink-3'}`}
                style={{ flex: `${p.n} 1 0` }}
                title={`${p.says} ${p.n}`}
              />
            ))}
          </div>
          <ul className="mt-1.5 flex flex-wrap gap-x-4 gap-y-0.5 text-[13px]">
            {of.parts.map((p) => (
              <li key={p.says} className="flex items-center gap-1.5 whitespace-nowrap">
                <span aria-hidden className={`size-2.5 rounded-[3px] print-exact ${tones[p.key] ?? 'bg-ink-3'}`} />
                <span className="text-ink-2">{p.says}</span> <b className="font-semibold">{p.n}</b>
              </li>
            ))}
          </ul>
        </>
      )}
      {of.n === 0 && <p className="mt-1 text-[13px] text-ink-3">Nothing.</p>}
    </section>
  )
}
