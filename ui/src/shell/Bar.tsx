import { Link, useNavigate, useRouterState } from '@tanstack/react-router'
import { ChevronDown, Hand, PenLine, Search, Undo2, Wind } from 'lucide-react'
import type { KeptSearch, Overview, Session } from '../api/client'
import { useLabelViews, useSearches } from '../api/queries'
import { undo } from '../state/commands'
import { countOf, viewName, viewOf, viewsAmong, type GoAction } from '../state/viewing'
import { density } from '../state/density'
import { startNew } from '../state/answering'
import { onlyAccount } from '../state/narrowed'
import { keyName, useKeyOf } from '../state/keys'
import { look } from '../state/night'
import { sittingDown } from '../state/sitting'
import { causes, gateShort } from '../state/gate'
import { Spots, Whereabouts } from '../days/Whereabouts'
import { AwayNow } from './AwayNow'
import { Find } from './Find'
import { LabelMark } from '../kit/LabelChip'
import { Menu } from '../kit/Menu'
import { Wordmark } from '../kit/Wordmark'

/** What holds, in a word. */
const inBar: Record<Overview['gate']['cause'], string> = {
  hold: 'Held',
  closed: 'Closed',
  quiet: 'Quiet',
  between: 'Held',
  opened: 'Open',
  open: 'Open',
}

/** The bar: views as words with their counts, find, the gate, the person. */
export function Bar(props: {
  overview: Overview | undefined
  session: Session
  onHold: () => void
  onKeys: () => void
  onSignOut: () => void
}) {
  const { overview } = props
  const keyOf = useKeyOf()
  const go = useNavigate()
  return (
    <header className="relative flex shrink-0 flex-wrap items-center gap-x-2.5 gap-y-1 px-4 py-2 max-md:gap-x-1.5 max-md:h-11 max-md:px-2 low:py-1 lg:flex-nowrap">
      <Link to="/inbox" aria-label="Ebbe, to the inbox" className="shrink-0 rounded-lg max-md:hidden">
        <Wordmark short />
      </Link>
      <nav
        aria-label="Views"
        className="flex min-w-0 items-center gap-0.5 2xl:gap-1 md:overflow-x-auto md:max-lg:order-last md:max-lg:w-full lg:shrink-0"
      >
        {viewsAmong('bar').map((name) => (
          <Link
            key={name}
            to={`/${name}`}
            className="flex items-baseline gap-1.5 rounded-lg px-2 py-1.5 text-[15px] 2xl:px-2.5 font-medium whitespace-nowrap text-ink-2 hover:bg-paper max-md:hidden [&.active]:bg-deep [&.active]:text-on-deep"
          >
            {viewOf(name).word} <span className="text-[13px]">{countOf(name, overview)}</span>
          </Link>
        ))}
        <Places overview={overview} />
      </nav>
      <span className="flex-1" />
      <Find />
      <button
        className="btn shrink-0 whitespace-nowrap"
        onClick={() => (startNew(onlyAccount.get()), void go({ to: '/inbox' }))}
        title="New letter"
      >
        <PenLine className="size-4" aria-hidden /> <span className="max-2xl:sr-only">New letter</span>{' '}
        {keyOf('compose') && <span className="key max-2xl:hidden">{keyName(keyOf('compose'))}</span>}
      </button>
      {overview && (
        <button
          onClick={props.onHold}
          aria-pressed={!overview.gate.open}
          className={`inline-flex min-h-8 shrink-0 items-center gap-2 rounded-lg px-3 py-1 font-medium whitespace-nowrap ${!overview.gate.open ? 'bg-lamp-2 text-lamp' : 'border border-line bg-paper hover:bg-tide-3'}`}
          title={
            overview.gate.open ? 'Hold delivery' : `${causes[overview.gate.cause]}. Let letters in, or hold longer`
          }
        >
          {overview.gate.open ? <Wind className="size-4" aria-hidden /> : <Hand className="size-4" aria-hidden />}
          <span className="max-md:sr-only">
            {overview.gate.open
              ? 'Open'
              : overview.gate.next
                ? `${inBar[overview.gate.cause]} ${gateShort(overview.gate)}`
                : 'Held'}
            {overview.held > 0 && <b className="ml-1.5">{overview.held} wait</b>}
          </span>
          {overview.held > 0 && (
            <b aria-hidden className="md:hidden">
              {overview.held}
            </b>
          )}
        </button>
      )}
      {overview?.undo && (
        <button
          className="btn shrink-0 btn-tight md:hidden"
          aria-label={`Undo: ${overview.undo}`}
          onClick={() => void undo()}
        >
          <Undo2 className="size-4" aria-hidden />
        </button>
      )}
      <AwayNow />
      <Whereabouts />
      <Me {...props} />
    </header>
  )
}

/** What is marked, wherever it is put away. */
const marks = [
  ['mark:starred', 'Starred'],
  ['mark:flagged', 'Flagged'],
] as const

const item = 'flex cursor-pointer items-center gap-6 rounded-lg px-3 py-1.5 outline-none data-[highlighted]:bg-tide-2'

/** What is put away; on a phone the one menu of all views, named by the one seen. */
function Places({ overview }: { overview: Overview | undefined }) {
  const { data: labels = [] } = useLabelViews()
  const keyOf = useKeyOf()
  const go = useNavigate()
  const here = useRouterState({ select: (s) => s.location.pathname })
  const seen = viewsAmong('bar').find((name) => `/${name}` === here)
  return (
    <Menu
      align="start"
      buttonClass="flex items-center gap-1.5 rounded-lg px-2 py-1.5 text-[15px] 2xl:px-2.5 font-medium whitespace-nowrap text-ink-2 hover:bg-paper max-md:min-h-9 max-md:bg-deep max-md:text-on-deep max-md:hover:bg-deep"
      trigger={
        <>
          <span className="max-md:hidden">Put away</span>
          <span className="max-w-28 truncate md:hidden">{viewName(here)}</span>
          {seen && <span className="text-[13px] md:hidden">{countOf(seen, overview)}</span>}
          <ChevronDown className="size-4 md:hidden" aria-label="All views" />
        </>
      }
    >
      {(M) => (
        <>
          {viewsAmong('bar').map((name) => (
            <M.Item key={name} className={`${item} md:hidden`} onSelect={() => void go({ to: `/${name}` })}>
              <span className="flex-1 font-medium">{viewOf(name).word}</span>
              <span className="text-[13px] text-ink-2">{countOf(name, overview)}</span>
            </M.Item>
          ))}
          <M.Separator className="my-1 h-px bg-line md:hidden" />
          {viewsAmong('away').map((name) => {
            const { word, go: key } = viewOf(name)
            return (
              <M.Item key={name} className={item} onSelect={() => void go({ to: `/${name}` })}>
                <span className="flex-1">{word}</span>
                {key && keyOf(key as GoAction) && <span className="key">{keyName(keyOf(key as GoAction))}</span>}
              </M.Item>
            )
          })}
          <M.Separator className="my-1 h-px bg-line" />
          <Kept
            item={(s) => (
              <M.Item
                key={s.id}
                className={item}
                onSelect={() => void go({ to: '/search', search: { q: s.q, within: s.within || undefined } })}
              >
                <Search className="-mr-4 size-3.5 text-ink-3" aria-hidden />
                <span className="max-w-44 flex-1 truncate">{s.name}</span>
                <span className="text-[13px] text-ink-2">{s.more ? `${s.n}+` : s.n}</span>
              </M.Item>
            )}
          />
          {marks.map(([q, name]) => (
            <M.Item key={q} className={item} onSelect={() => void go({ to: '/search', search: { q } })}>
              {name}
            </M.Item>
          ))}
          {labels
            .toSorted((x, y) => y.n - x.n)
            .slice(0, 12)
            .map((l) => (
              <M.Item key={l.name} className={item} onSelect={() => void go({ to: '/search', search: { q: l.q } })}>
                <span className="-mr-4 flex w-3.5 justify-center text-ink-3">
                  <LabelMark look={l} />
                </span>
                <span className="max-w-44 flex-1 truncate">{l.name}</span>
                <span className="text-[13px] text-ink-2">{l.n}</span>
              </M.Item>
            ))}
        </>
      )}
    </Menu>
  )
}

/** The searches that are kept; they are counted when one looks. */
function Kept({ item }: { item: (s: KeptSearch) => React.ReactNode }) {
  const { data = [] } = useSearches(true)
  return <>{data.map(item)}</>
}

function Me(props: { session: Session; onKeys: () => void; onSignOut: () => void }) {
  const now = look.use()
  const compact = density.use() === 'compact'
  const go = useNavigate()
  const keyOf = useKeyOf()
  const name = props.session.me?.name ?? ''
  const initials = name
    .split(' ')
    .map((w) => w[0])
    .join('')
    .slice(0, 2)
  return (
    <Menu
      aria-label={`${initials}: look, keys and signing out for ${name}`}
      buttonClass="grid size-8 shrink-0 place-items-center rounded-full bg-heather text-[12px] font-bold text-paper"
      className="min-w-48"
      trigger={initials}
    >
      {(M) => (
        <>
          <M.Label className="px-3 py-1 text-[13px] text-ink-3">{name}</M.Label>
          <div className="md:hidden">
            <Spots parts={M} />
          </div>
          <M.RadioGroup value={now} onValueChange={(v) => look.set(v as typeof now)}>
            {(['system', 'light', 'night'] as const).map((v) => (
              <M.RadioItem key={v} value={v} className={item}>
                <span className="flex-1">{{ system: 'As the system', light: 'Light', night: 'Night' }[v]}</span>
                <M.ItemIndicator>✓</M.ItemIndicator>
              </M.RadioItem>
            ))}
          </M.RadioGroup>
          <M.Separator className="my-1 h-px bg-line" />
          <M.CheckboxItem
            className={item}
            checked={compact}
            onCheckedChange={(on) => density.set(on ? 'compact' : 'roomy')}
          >
            <span className="flex-1">More rows in lists</span>
            <M.ItemIndicator>✓</M.ItemIndicator>
          </M.CheckboxItem>
          <M.Separator className="my-1 h-px bg-line" />
          <M.Item className={item} onSelect={() => void go({ to: '/times' })}>
            <span className="flex-1">Times and places</span>
            {keyOf('goTimes') && <span className="key">{keyName(keyOf('goTimes'))}</span>}
          </M.Item>
          <M.Item className={item} onSelect={() => void go({ to: '/delivery' })}>
            <span className="flex-1">Delivery</span>
            {keyOf('goDelivery') && <span className="key">{keyName(keyOf('goDelivery'))}</span>}
          </M.Item>
          <M.Item className={item} onSelect={() => void go({ to: '/accounts' })}>
            <span className="flex-1">Accounts</span>
            {keyOf('goAccounts') && <span className="key">{keyName(keyOf('goAccounts'))}</span>}
          </M.Item>
          <M.Item className={item} onSelect={() => void go({ to: '/routines' })}>
            <span className="flex-1">Routines</span>
            {keyOf('goRoutines') && <span className="key">{keyName(keyOf('goRoutines'))}</span>}
          </M.Item>
          <M.Item className={item} onSelect={() => void go({ to: '/backlog' })}>
            <span className="flex-1">Backlog</span>
            {keyOf('goBacklog') && <span className="key">{keyName(keyOf('goBacklog'))}</span>}
          </M.Item>
          <M.Item className={item} onSelect={() => void go({ to: '/rules' })}>
            <span className="flex-1">Rules</span>
            {keyOf('goRules') && <span className="key">{keyName(keyOf('goRules'))}</span>}
          </M.Item>
          <M.Item className={item} onSelect={() => sittingDown.set({})}>
            <span className="flex-1">Sitting</span>
            {keyOf('sit') && <span className="key">{keyName(keyOf('sit'))}</span>}
          </M.Item>
          <M.Item className={item} onSelect={() => void go({ to: '/templates' })}>
            <span className="flex-1">Templates and groups</span>
            {keyOf('goTemplates') && <span className="key">{keyName(keyOf('goTemplates'))}</span>}
          </M.Item>
          <M.Item className={item} onSelect={() => void go({ to: '/files' })}>
            <span className="flex-1">Letters in and out</span>
            {keyOf('goFiles') && <span className="key">{keyName(keyOf('goFiles'))}</span>}
          </M.Item>
          <M.Item className={item} onSelect={props.onKeys}>
            <span className="flex-1">Keys</span> <span className="key">?</span>
          </M.Item>
          <M.Item className={item} onSelect={props.onSignOut}>
            Sign out
          </M.Item>
        </>
      )}
    </Menu>
  )
}
