import type { LetterFile } from '../api/client'
import { usePreview } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'

/** What a file shows at its beginning: the picture, the first page's text, the first rows. */
export function Preview({ file: f }: { file: LetterFile }) {
  const { data, isError, error, refetch } = usePreview(f.letter, f.part)
  if (isError && !data) return <CouldNotRead what="That file" error={error} again={() => void refetch()} />
  if (!data) return <div aria-busy className="h-60 animate-pulse rounded-lg bg-shore-2" />
  return (
    <div>
      {data.says && <p className="pb-2 text-[14px] text-lamp">{data.says}</p>}
      {data.shows === 'picture' && (
        <img
          src={`/api/letters/${f.letter}/parts/${f.part}`}
          alt={f.name}
          className="max-h-[60vh] max-w-full rounded-lg border border-line object-contain"
        />
      )}
      {data.shows === 'text' && <p className="serif max-w-[68ch] break-words whitespace-pre-wrap">{data.text}</p>}
      {data.shows === 'table' && (
        <div className="overflow-x-auto" role="group" aria-label={`Table of ${f.name}`} tabIndex={0}>
          <table className="border-collapse text-[13px]">
            <tbody>
              {data.rows?.map((row, i) => (
                <tr key={i} className="border-b border-line">
                  {row.map((cell, k) => {
                    const Cell = i === 0 ? 'th' : 'td'
                    return (
                      <Cell
                        key={k}
                        className={`px-2 py-1 text-left align-top ${/^[-+]?[\d.,\s]+%?$/.test(cell) ? 'text-right tabular-nums' : ''}`}
                      >
                        {cell}
                      </Cell>
                    )
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {data.more && <p className="pt-2 text-[13px] text-ink-3">There is more of it in the file.</p>}
    </div>
  )
}
