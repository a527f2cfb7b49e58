import { FileText, NotepadText, Paperclip } from 'lucide-react'
import { useEffect, type RefObject } from 'react'
import type { AttachedFile, Conversation } from '../api/client'
import { useAccounts, useFiles } from '../api/queries'
import { accountOf } from '../state/answering'
import { coming, detach } from '../state/attaching'
import { size } from '../state/time'
import { type, type Open } from '../state/writing'

const alongs = [
  ['files', 'with its files'],
  ['text', 'without its files'],
  ['letter', 'as a whole letter'],
] as const

/** The files that go along, and how far each has come. */
export function Attached({
  open,
  conversation,
  choose,
  onFiles,
  onTemplate,
}: {
  open: Open
  conversation: Conversation | undefined
  choose: RefObject<HTMLInputElement | null>
  onFiles: (files: File[]) => void
  onTemplate: () => void
}) {
  const { writing: w, draft } = open
  const files = w.files ?? []
  const { data: accounts = [] } = useAccounts()
  const limit = accountOf(w.from, accounts)?.sizeLimit
  const all = files.reduce((sum, f) => sum + f.size, 0)
  const theirs = conversation?.letterList.find((l) => l.id === w.letter)?.parts.length ?? 0
  return (
    <div className="flex flex-wrap items-center gap-2 py-2 text-[13px]">
      {w.kind === 'hand-on' && (
        <label className="flex items-center gap-2">
          <select
            aria-label="How the letter goes along"
            className="rounded-lg border border-line bg-paper px-2 py-1"
            value={w.along ?? 'files'}
            onChange={(e) => type({ along: e.target.value as 'files' | 'text' | 'letter' })}
          >
            {alongs
              .filter(([along]) => theirs > 0 || along !== 'text')
              .map(([along, name]) => (
                <option key={along} value={along}>
                  {along === 'files' && theirs === 0 ? 'below your text' : name}
                </option>
              ))}
          </select>
        </label>
      )}
      {files.length > 0 && (
        <ul aria-label="Files" className="contents">
          {files.map((f) => (
            <One key={f.id} file={f} draft={draft} inText={Boolean(w.markdown) && w.text.includes(`](cid:${f.id})`)} />
          ))}
        </ul>
      )}
      <button
        type="button"
        className="flex min-h-8 items-center gap-2 rounded-lg border border-dashed border-line px-3 text-ink-2 hover:bg-tide-3"
        onClick={() => choose.current?.click()}
      >
        <Paperclip className="size-4" aria-hidden />
        <span className="max-md:hidden">Drop, paste or choose files</span>
        <span className="md:hidden">Files</span>
        <span className="key max-md:hidden">Alt A</span>
      </button>
      <button
        type="button"
        className="flex min-h-8 items-center gap-2 rounded-lg border border-dashed border-line px-3 text-ink-2 hover:bg-tide-3"
        onClick={onTemplate}
      >
        <NotepadText className="size-4" aria-hidden />
        Template
        <span className="key max-md:hidden">Alt T</span>
      </button>
      {files.length > 0 && limit !== undefined && (
        <span className={(all * 4) / 3 > limit ? 'font-semibold text-buoy' : 'text-ink-3'}>
          {size(all)} of {size(Math.floor((limit * 3) / 4))}
        </span>
      )}
      <input
        ref={choose}
        type="file"
        multiple
        hidden
        aria-label="Files to attach"
        onChange={(e) => {
          onFiles([...(e.target.files ?? [])])
          e.target.value = '' // the same file can be chosen once more
        }}
      />
    </div>
  )
}

function One({ file: f, draft, inText }: { file: AttachedFile; draft: string; inText: boolean }) {
  const here = coming.useOf((all) => all.get(f.id))
  // What was not brought by this page is asked for: it may have broken off.
  const { data: known, refetch } = useFiles(draft, here === undefined)
  const there = known?.find((k) => k.id === f.id)
  const gone = here === undefined && known !== undefined && (there === undefined || there.came < f.size)
  useEffect(() => {
    if (here === undefined && known !== undefined && there === undefined) void refetch()
  }, [here, known, there, refetch])
  const came = here?.came ?? there?.came ?? f.size
  const trouble = here?.trouble || (gone ? 'It broke off: choose it once more, and it goes on.' : '')
  const whole = came >= f.size && !trouble
  return (
    <li
      className={`flex max-w-full flex-wrap items-center gap-2 rounded-lg border py-1 pr-1 pl-2.5 ${trouble ? 'border-buoy bg-buoy-2' : 'border-line bg-shore/50'}`}
    >
      <FileText className="size-4 shrink-0 text-ink-3" aria-hidden />
      {whole ? (
        <a
          className="max-w-60 truncate font-medium hover:underline"
          href={`/api/attached/${encodeURIComponent(f.id)}`}
          target="_blank"
          rel="noreferrer"
        >
          {f.name}
        </a>
      ) : (
        <span className="max-w-60 truncate font-medium">{f.name}</span>
      )}
      <span className="shrink-0 text-ink-3">
        {size(f.size)}
        {inText && ' · in the text'}
      </span>
      {here && !trouble && (
        <progress
          className="h-1.5 w-20 accent-[var(--tide)]"
          max={Math.max(f.size, 1)}
          value={came}
          aria-label={`${f.name} is on its way`}
        />
      )}
      <button
        type="button"
        className="grid size-6 place-items-center rounded-md hover:bg-paper"
        aria-label={`Take ${f.name} off`}
        onClick={() => detach(f.id)}
      >
        ×
      </button>
      {trouble && (
        <span role="alert" className="w-full pb-0.5 text-buoy">
          {trouble}
        </span>
      )}
    </li>
  )
}
