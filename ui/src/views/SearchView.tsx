import { useNavigate, useSearch } from '@tanstack/react-router'
import { ChevronDown } from 'lucide-react'
import { useList } from '../api/queries'
import { useSettled } from '../api/settled'
import { part } from '../kit/part'
import { Menu } from '../kit/Menu'
import { Keep } from './KeptSearch'
import { SaveAs } from '../letters/SaveAs'
import { appointing } from '../state/appointing'
import { useFocus } from '../state/focus'
import { grouping } from '../state/grouping'
import { act, useKeys } from '../state/keys'
import { ruleOfSearch } from '../state/rules'
import { SaysWhere, Seeking, useBeside, useCounts, useScopes, type Sought } from '../state/seeking'
import { GroupChoice } from './GroupChoice'
import { MailView } from './MailView'

const GroupedView = part(() => import('./GroupedView').then((m) => m.GroupedView))

const nothingYet: Sought = {}

/** Whether one types what to look for. */
const inTheBox = () => document.activeElement?.getAttribute('type') === 'search'

type Counts = NonNullable<ReturnType<typeof useCounts>['data']>

/** What was found, to be narrowed, and decided on as anywhere. */
export function SearchView() {
  const sought = useSearch({ strict: false }) as Sought
  const { q = '', within = '', best = false } = sought
  const { data, dataUpdatedAt } = useList({ name: 'search', q, within, best })
  const settled = useSettled(sought, 300, nothingYet) // what was found comes first
  const { data: counted } = useCounts(settled, dataUpdatedAt)
  const counts = settled.q === q && settled.within === sought.within ? counted : undefined
  const first = data?.pages[0]
  const typing = useFocus(inTheBox)
  const still = useSettled(sought, 250, typing ? nothingYet : sought) === sought
  const by = grouping.use().found
  const head = (some: boolean) => (
    <div className="px-2 py-2">
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        <h1 className="min-w-16 flex-1 truncate text-[15px] font-semibold">
          Found <span className="font-normal text-ink-3">{counts ? counts.n.toLocaleString() : ''}</span>
        </h1>
        <Scopes sought={sought} />
        <button className="btn btn-small" title="Only some of it (Shift O)" onClick={() => act('only')}>
          Only <span className="key max-2xl:hidden">Shift O</span>
        </button>
        <Order sought={sought} />
      </div>
      <div className="mt-1.5 flex flex-wrap items-center gap-1">
        {q.trim() !== '' && <Keep sought={sought} />}
        <GroupChoice place="found" />
        {some && counted && <Narrow sought={sought} counts={counted} />}
      </div>
      <AlsoFound q={settled.q ?? ''} />
      {first?.read && <p className="mt-1 text-[13px] text-ink-2">Read as {first.read}</p>}
      {first?.problems?.map((p) => (
        <p key={p.from} role="alert" className="mt-1 text-[13px] text-buoy">
          <b className="font-semibold">{[...q].slice(p.from, p.to).join('').slice(0, 40)}</b> {p.says}
        </p>
      ))}
    </div>
  )
  const nothing = <Nothing sought={sought} counts={counts} short={first?.short} />
  return (
    <Seeking value={sought}>
      <SaysWhere value={still ? sought : undefined}>
        {by && q ? (
          <GroupedView
            key={by + q + within}
            ask={{ place: 'found', by, account: 0, q, within }}
            head={head(true)}
            empty={nothing}
          />
        ) : (
          <MailView
            key="search"
            list={{ name: 'search', q, within, best }}
            opens={still || !typing} // where nobody types, the letter in focus is the one that is acted on
            head={(listing) => head(listing.rows.length > 0)}
            empty={nothing}
          />
        )}
      </SaysWhere>
    </Seeking>
  )
}

/** Where is looked; its key goes to the next. */
function Scopes({ sought }: { sought: Sought }) {
  const go = useNavigate()
  const scopes = useScopes()
  const at = scopes.findIndex((s) => s.within === (sought.within ?? ''))
  const to = (within: string) =>
    void go({ to: '/search', search: { ...sought, within: within || undefined }, replace: true })
  useKeys({ scope: () => to(scopes[(at + 1) % scopes.length]?.within ?? '') })
  if (scopes.length < 2) return null
  return (
    <div role="group" aria-label="Where to look" className="flex rounded-lg border border-line">
      {scopes.map((s) => (
        <button
          key={s.within}
          aria-pressed={s.within === (sought.within ?? '')}
          className="min-h-7 max-w-36 truncate rounded-lg px-2 text-[13px] text-ink-2 hover:bg-tide-3 aria-pressed:bg-tide-2 aria-pressed:font-semibold aria-pressed:text-tide"
          onClick={() => to(s.within)}
        >
          {s.name}
        </button>
      ))}
    </div>
  )
}

function Order({ sought }: { sought: Sought }) {
  const go = useNavigate()
  const turn = () =>
    void go({ to: '/search', search: { ...sought, best: sought.best ? undefined : true }, replace: true })
  useKeys({ bestFirst: turn })
  return (
    <button className="btn btn-small" aria-pressed={sought.best ?? false} onClick={turn}>
      {sought.best ? 'Best first' : 'Newest first'}
    </button>
  )
}

const kinds = [
  ['places', 'Where'],
  ['senders', 'From'],
  ['years', 'Year'],
  ['kinds', 'Kind'],
] as const

/** What was found, counted; one press finds only a part of it. */
function Narrow({ sought, counts }: { sought: Sought; counts: Counts }) {
  const go = useNavigate()
  const { q = '', within = '' } = sought
  return (
    <div role="group" aria-label="Narrow" className="contents">
      {kinds.map(([of, name]) =>
        counts[of].length < 2 ? null : (
          <Menu
            key={of}
            align="start"
            buttonClass="btn btn-small"
            trigger={
              <>
                {name} <ChevronDown className="size-3.5" aria-hidden />
              </>
            }
          >
            {(M) =>
              counts[of].map((c) => (
                <M.Item
                  key={c.add}
                  className="flex cursor-pointer items-center gap-6 rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2"
                  onSelect={() => void go({ to: '/search', search: { ...sought, q: `${q.trim()} ${c.add}` } })}
                >
                  <span className="max-w-64 min-w-0 flex-1 truncate">{c.name}</span>
                  <span className="text-[13px] text-ink-2">{c.n.toLocaleString()}</span>
                </M.Item>
              ))
            }
          </Menu>
        ),
      )}
      <span className="flex-1" />
      <SaveAs search={q} within={within} />
      <button className="btn btn-small" onClick={() => void ruleOfSearch(q, () => go({ to: '/rules' }))}>
        Rule of this
      </button>
    </div>
  )
}

type Found = NonNullable<ReturnType<typeof useBeside>['data']>

/** What beside letters has the words, each kind under its own head. */
function AlsoFound({ q }: { q: string }) {
  const go = useNavigate()
  const { data } = useBeside(q)
  const open: Record<keyof Found, { name: string; to: (one: Found[keyof Found][number]) => void }> = {
    followUps: { name: 'Follow-ups', to: (f) => void go({ to: '/follow-ups', search: { open: f.id } }) },
    appointments: { name: 'Appointments', to: (a) => appointing.set({ id: a.id }) },
    people: { name: 'People', to: (p) => void go({ to: '/people', search: { of: p.address } }) },
    journal: {
      name: 'Journal',
      to: (j) =>
        void (j.conversation
          ? go({ to: '/letter/$id', params: { id: String(j.conversation) } })
          : go({ to: '/journal' })),
    },
  }
  const kinds = (Object.keys(open) as (keyof Found)[]).filter((k) => data && data[k].length > 0)
  if (!data || kinds.length === 0) return null
  return (
    <div role="group" aria-label="Also found" className="mt-1.5 flex flex-wrap items-center gap-1 text-[13px]">
      <span className="text-ink-2">Also in</span>
      {kinds.map((k) => (
        <Menu
          key={k}
          align="start"
          className="max-h-[60vh] min-w-44 overflow-y-auto"
          buttonClass="btn btn-small"
          trigger={
            <>
              {open[k].name} <span className="text-ink-2">{data[k].length}</span>
              <ChevronDown className="size-3.5" aria-hidden />
            </>
          }
        >
          {(M) =>
            data[k].map((one) => (
              <M.Item
                key={`${one.id} ${one.address ?? ''}`}
                className="flex cursor-pointer items-baseline gap-6 rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2"
                onSelect={() => open[k].to(one)}
              >
                <span className="max-w-72 min-w-0 flex-1 truncate">{one.title}</span>
                <span className="max-w-48 truncate text-[13px] text-ink-2">{one.says}</span>
              </M.Item>
            ))
          }
        </Menu>
      ))}
    </div>
  )
}

/** That nothing was found, and what would find something. */
function Nothing(props: { sought: Sought; counts: Counts | undefined; short: boolean | undefined }) {
  const { sought, counts } = props
  const go = useNavigate()
  if (!sought.q?.trim())
    return (
      <p className="p-6 text-ink-2">
        Type what to look for: words as they begin, “a phrase”, -not this, this or that, from:, label:, with:file,
        after:monday. The box says what else there is.
      </p>
    )
  return (
    <div className="p-6">
      <p className="text-ink-2">
        {props.short
          ? 'Type on: words are found as they begin once they have two letters.'
          : 'Nothing found. Letters that are held are not looked for.'}
      </p>
      {counts && counts.instead.length > 0 && (
        <ul aria-label="What finds something" className="mt-3 space-y-1.5">
          {counts.instead.map((i) => (
            <li key={i.says + i.q + i.within}>
              <button
                className="flex min-h-8 w-full items-baseline gap-2 rounded-lg border border-line bg-paper px-3 py-1.5 text-left hover:bg-tide-3"
                onClick={() => void go({ to: '/search', search: { ...sought, q: i.q, within: i.within || undefined } })}
              >
                <span className="shrink-0 text-[13px] text-ink-3">{i.says}</span>
                <span className="min-w-0 flex-1 truncate font-medium">{i.q}</span>
                <span className="text-[13px] text-ink-2">{i.more ? `over ${i.n}` : i.n}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}
