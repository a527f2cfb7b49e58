import { ArrowDown, ArrowUp, Download, Plus, Upload } from 'lucide-react'
import { useRef, useState } from 'react'
import type { Rule, Rules } from '../api/client'
import { useRules } from '../api/queries'
import { CouldNotRead } from '../kit/CouldNotRead'
import { Menu } from '../kit/Menu'
import { RuleDid } from '../rules/RuleDid'
import { Proposed } from '../rules/Proposed'
import { RuleEditor } from '../rules/RuleEditor'
import { carryOut, told, undo } from '../state/commands'
import { useKeys } from '../state/keys'
import { stillThere } from '../state/drafting'
import { changing, emptyRule, ruleDraft } from '../state/rules'
import { stamp } from '../state/time'

const card = 'mb-3 rounded-[14px] border border-line bg-paper p-4'

/** What is done by itself with letters that come: the rules in their order, and how they are made. */
export function RulesView() {
  const { data, isError, error, refetch } = useRules()
  const draft = stillThere(ruleDraft.use(), data?.rules)
  useKeys({ undo: () => void undo() })
  const done = () => ruleDraft.set(undefined)
  return (
    <main
      className={`relative mx-auto min-h-0 w-full flex-1 overflow-y-auto px-4 pb-6 ${draft ? 'max-w-6xl' : 'max-w-3xl'}`}
      aria-label="Rules"
    >
      <div className="flex flex-wrap items-center gap-2 py-2">
        <h1 className="min-w-16 flex-1 text-[20px] font-bold">Rules</h1>
        <Scripts some={(data?.rules.length ?? 0) > 0} />
        <button className="btn" onClick={() => ruleDraft.set(emptyRule)}>
          <Plus className="size-4" aria-hidden /> New rule
        </button>
      </div>
      {isError && !data && <CouldNotRead what="The rules" error={error} again={() => void refetch()} />}
      {!data && !isError && <div aria-busy className="h-40 animate-pulse rounded-[14px] bg-shore-2" />}
      {data && draft && draft.id === undefined && (
        <RuleEditor draft={draft} about={data} onChange={ruleDraft.set} onDone={done} />
      )}
      {data?.proposed && !draft && <Proposed of={data.proposed} />}
      {data?.rules.length === 0 && !draft && (
        <p className={`${card} text-ink-2`}>
          No rules yet. A rule does by itself what you would do with certain letters as they are let in. It is tried on
          what came in the last 60 days before it is kept, all that it does stands in the Journal under its name, and
          can be undone. Begin with a letter (<span className="key">Shift R</span>), a search, or here.
        </p>
      )}
      <ol>
        {data?.rules.map((r, i) =>
          draft?.id === r.id ? (
            <li key={r.id}>
              <RuleEditor draft={draft} about={data} onChange={ruleDraft.set} onDone={done} />
            </li>
          ) : (
            <Line key={r.id} rule={r} nth={i} all={data} />
          ),
        )}
      </ol>
    </main>
  )
}

/** Rules as a Sieve script, out and in. */
function Scripts({ some }: { some: boolean }) {
  const file = useRef<HTMLInputElement>(null)
  const read = (script: string) => void carryOut({ path: 'read-script', body: { script } }).then(told)
  return (
    <>
      <input
        ref={file}
        type="file"
        accept=".sieve,.siv,.txt,application/sieve,text/plain"
        aria-label="A Sieve script"
        className="hidden"
        onChange={(e) => {
          const chosen = e.target.files?.[0]
          e.target.value = ''
          void chosen?.text().then(read)
        }}
      />
      <button
        className="btn"
        title="Rules of a Sieve script, off until looked at"
        onClick={() => file.current?.click()}
      >
        <Upload className="size-4" aria-hidden /> Read a script
      </button>
      {some && (
        <a className="btn" href="/api/rules/script" download title="All rules as a Sieve script (RFC 5228)">
          <Download className="size-4" aria-hidden /> As a script
        </a>
      )}
    </>
  )
}

/** One rule: which letters, what it does, and what it did. */
function Line({ rule: r, nth, all }: { rule: Rule; nth: number; all: Rules }) {
  const [looks, setLooks] = useState(false)
  const edit = (body: Parameters<typeof carryOut>[0] & { path: 'edit-rule' }) => void carryOut(body).then(told)
  const move = (by: number) => edit({ path: 'edit-rule', id: r.id, body: { move: by } })
  const idle = r.off || r.expired
  return (
    <li aria-label={r.name} className={`${card} ${idle ? 'border-dashed' : ''}`}>
      <div className="flex flex-wrap items-start gap-2">
        <div className="min-w-0 flex-1 basis-72">
          <h2 className="font-semibold">
            {r.name}
            {r.off && <span className="ml-2 text-[13px] font-normal text-ink-3">off</span>}
            {r.until && (
              <span className="ml-2 text-[13px] font-normal text-ink-3">
                {r.expired ? 'expired' : `until ${r.until}`}
              </span>
            )}
          </h2>
          <p className="text-[14px] text-ink-2">{r.when}</p>
          <p className="text-[14px]">
            → {r.does}
            {r.stop && <span className="text-ink-3">, then no other rule</span>}
          </p>
          {r.trouble && <p className="text-[14px] text-buoy">{r.trouble}</p>}
          {r.said && <p className="text-[14px] text-buoy whitespace-pre-line">{r.said}</p>}
        </div>
        <button
          className="btn btn-small"
          role="switch"
          aria-checked={!r.off}
          onClick={() => edit({ path: 'edit-rule', id: r.id, body: { off: !r.off } })}
        >
          {r.off ? 'Off' : 'On'}
        </button>
        <button className="btn btn-small" onClick={() => ruleDraft.set(changing(r))}>
          Change
        </button>
        <button
          className="btn btn-small"
          aria-label={`“${r.name}” earlier`}
          disabled={nth === 0}
          onClick={() => move(-1)}
        >
          <ArrowUp className="size-3.5" aria-hidden />
        </button>
        <button
          className="btn btn-small"
          aria-label={`“${r.name}” later`}
          disabled={nth === all.rules.length - 1}
          onClick={() => move(1)}
        >
          <ArrowDown className="size-3.5" aria-hidden />
        </button>
        <Menu align="end" buttonClass="btn btn-small" trigger={<>More</>}>
          {(M) => {
            const item = 'cursor-pointer rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2'
            const apply = (archive: boolean) =>
              void carryOut({ path: 'apply-rule', id: r.id, body: { archive } }).then(told)
            return (
              <>
                <M.Item className={item} onSelect={() => apply(false)}>
                  Apply to what waits now
                </M.Item>
                <M.Item className={item} onSelect={() => apply(true)}>
                  Apply to the archive, too
                </M.Item>
                <M.Item
                  className={item}
                  onSelect={() => void carryOut({ path: 'undo-rule', id: r.id, body: {} }).then(told)}
                >
                  Undo all that it did
                </M.Item>
                <M.Item className={item} onSelect={() => edit({ path: 'edit-rule', id: r.id, body: { remove: true } })}>
                  Take it away
                </M.Item>
              </>
            )
          }}
        </Menu>
      </div>
      <button className="mt-1 text-[13px] text-ink-2 underline" aria-expanded={looks} onClick={() => setLooks(!looks)}>
        {r.did > 0 && r.last
          ? `Acted on ${r.did} ${r.did === 1 ? 'letter' : 'letters'} in 60 days, last ${stamp(r.last)}`
          : 'What it did'}
      </button>
      {looks && <RuleDid rule={r.id} />}
    </li>
  )
}
