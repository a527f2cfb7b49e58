import { NotebookPen } from 'lucide-react'
import { useEffect, useState } from 'react'
import type { Chip } from '../api/client'
import { useCapture } from '../api/queries'
import { Dialog, DialogFoot } from '../kit/Dialog'

const kinds: Record<Chip['kind'], string> = {
  due: 'due',
  remind: 'reminder',
  priority: 'priority',
  project: 'project',
  context: 'context',
  estimate: 'takes',
  recurs: 'comes again',
  owner: 'done by',
  stage: 'stage',
  note: 'note',
}

/** A follow-up in one line of plain words, read while it is typed. */
export function CaptureDialog(props: { initial?: string; onTake: (line: string) => void; onClose: () => void }) {
  const [line, setLine] = useState(props.initial ?? '')
  const { data, isPlaceholderData } = useCapture(line)
  const [wanted, setWanted] = useState(false)
  const ready = data && !isPlaceholderData
  const trouble = data?.chips.find((c) => c.trouble)?.trouble
  const able = ready && !trouble && data.title !== ''
  const { onTake } = props
  useEffect(() => {
    if (!wanted || !ready) return
    setWanted(false)
    if (able) onTake(line)
  }, [wanted, ready, able, line, onTake])
  const complete = data && !isPlaceholderData ? data.complete : []
  // A part that is not meant is put in quotation marks: then it is only words.
  const literal = (c: Chip) => {
    const bytes = new TextEncoder().encode(line)
    const cut = (from: number, to?: number) => new TextDecoder().decode(bytes.slice(from, to))
    const end = c.from + new TextEncoder().encode(c.text).length
    setLine(`${cut(0, c.from)}"${c.text}"${cut(end)}`)
  }
  return (
    <Dialog
      title="Note down"
      hint="a follow-up in one line"
      icon={<NotebookPen className="size-5 text-buoy" aria-hidden />}
      onClose={props.onClose}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault()
          if (able) onTake(line)
          else setWanted(true)
        }}
      >
        <input
          autoFocus
          aria-label="What is to be done"
          className="field border-2 border-tide text-[16px] outline-none"
          placeholder="send lift height to Bram fri 10, high, for loan, by phone, 15 min"
          maxLength={900}
          value={line}
          autoComplete="off"
          onChange={(e) => {
            setLine(e.target.value)
            setWanted(false)
          }}
          onKeyDown={(e) => {
            const first = complete[0]
            if (e.key === 'Tab' && !e.shiftKey && first) {
              e.preventDefault()
              setLine(first)
            }
          }}
        />
        <p className="min-h-6 pt-1 text-[13px] text-buoy" aria-live="polite">
          {trouble}
        </p>
        {complete.length > 0 && (
          <div className="flex flex-wrap gap-1.5 pb-2">
            {complete.map((c, i) => (
              <button key={c} type="button" className="chip !text-[13px]" onClick={() => setLine(c)}>
                …{c.slice(line.lastIndexOf(' ') + 1)} {i === 0 && <span className="key">Tab</span>}
              </button>
            ))}
          </div>
        )}
        <div className="min-h-20 rounded-[12px] bg-shore p-3" aria-live="polite">
          {data?.title ? (
            <p className="pb-2 text-[15px] font-semibold">{data.title}</p>
          ) : (
            <p className="text-[13px] text-ink-3">
              Commas part what belongs to it: when, how important, “for” a project, “by” or “at” what it needs, how
              long, “remind …”, “every …”. What stands in quotation marks is only words.
            </p>
          )}
          <ul className="flex flex-wrap gap-1.5">
            {data?.chips.map((c) => (
              <li
                key={`${c.kind}${c.from}`}
                className={`chip !text-[13px] ${c.trouble ? '!bg-buoy-2 !text-buoy' : '!bg-tide-2 !text-tide'}`}
              >
                <span>
                  {kinds[c.kind]} <b className="font-semibold">{c.trouble ? c.text : c.words}</b>
                </span>
                <button
                  type="button"
                  className="-mr-1 px-1.5 hover:text-buoy"
                  aria-label={`“${c.text}” is only words`}
                  title="Only words"
                  onClick={() => literal(c)}
                >
                  ×
                </button>
              </li>
            ))}
          </ul>
        </div>
        <DialogFoot>
          <button type="button" className="btn" onClick={props.onClose}>
            Leave it <span className="key">Esc</span>
          </button>
          <button type="submit" className="btn btn-main" disabled={ready && !able}>
            Make follow-up <span className="key !border-on-deep/30 !bg-transparent !text-on-deep">Enter</span>
          </button>
        </DialogFoot>
      </form>
    </Dialog>
  )
}
