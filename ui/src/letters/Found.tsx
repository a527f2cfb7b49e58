import { Copy, FileQuestion, KeyRound, Phone } from 'lucide-react'
import { createContext } from 'react'
import type { Letter } from '../api/client'
import { toast } from '../state/toast'

type Found = NonNullable<NonNullable<Letter['body']>['found']>[number]

/** What of a letter’s findings is pointed at: its text shows where that stands. */
export const FoundMarks = createContext<readonly string[]>([])

/** Lets the letter show where something stands in it, while that is pointed at or has the focus. */
export const marking = (quotes: readonly string[], mark: (quotes: readonly string[]) => void) => ({
  onMouseEnter: () => mark(quotes),
  onMouseLeave: () => mark([]),
  onFocus: () => mark(quotes),
  onBlur: () => mark([]),
})

/** What one signs in with, numbers to call, and a file that is spoken of and did not come. */
export function Findings({ found, onMark }: { found: Found[]; onMark: (quotes: readonly string[]) => void }) {
  return (
    <ul aria-label="Found in the letter" className="mt-3 flex flex-wrap gap-1.5 text-[13px]">
      {found.map((f) => (
        <li key={f.kind + f.quote} {...marking([f.quote], onMark)}>
          <One found={f} />
        </li>
      ))}
    </ul>
  )
}

const look = 'flex min-h-7 max-w-full items-center gap-1.5 rounded-lg border border-line bg-shore/50 px-2.5'

function One({ found: f }: { found: Found }) {
  const holds = f.until && <span className="text-ink-2">holds {f.until}</span>
  if (f.kind === 'phone')
    return (
      <a href={`tel:${f.value ?? ''}`} className={`${look} hover:bg-tide-3`}>
        <Phone className="size-3.5 text-ink-3" aria-hidden /> {f.quote}
      </a>
    )
  if (f.kind === 'code')
    return (
      <button
        className={`${look} hover:bg-tide-3`}
        title="Copy the code"
        onClick={() =>
          void navigator.clipboard.writeText(f.value ?? '').then(
            () => toast(`Copied: ${f.value ?? ''}`),
            () => toast('The code could not be copied.'),
          )
        }
      >
        <KeyRound className="size-3.5 text-ink-3" aria-hidden />
        <b className="font-mono text-[15px] font-semibold">{f.value}</b>
        {holds} <Copy className="size-3.5 text-ink-3" aria-label="Copy" />
      </button>
    )
  if (f.kind === 'link')
    return (
      <a href={f.value} target="_blank" rel="noreferrer noopener" className={`${look} hover:bg-tide-3`}>
        <KeyRound className="size-3.5 text-ink-3" aria-hidden />
        <span className="truncate">Signs in at {hostOf(f.value ?? '')}</span> {holds}
      </a>
    )
  return (
    <span tabIndex={0} className={`${look} !border-transparent !bg-lamp-2 text-lamp`}>
      <FileQuestion className="size-3.5" aria-hidden /> It says “{f.quote}”, and no file came
    </span>
  )
}

function hostOf(address: string) {
  try {
    return new URL(address).host
  } catch {
    return address
  }
}
