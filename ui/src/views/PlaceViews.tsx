import { useRouterState } from '@tanstack/react-router'
import type { ReactNode } from 'react'
import { part } from '../kit/part'
import { grouping } from '../state/grouping'
import { GroupChoice } from './GroupChoice'
import { viewOf, type ViewName } from '../state/viewing'
import { MailView } from './MailView'

const JunkLine = part(() => import('../letters/JunkLine').then((m) => m.JunkLine))
const GroupedView = part(() => import('./GroupedView').then((m) => m.GroupedView))

function Head({ title, hint, children }: { title: string; hint?: string; children?: ReactNode }) {
  return (
    <div className="flex h-12 shrink-0 items-center gap-3 px-2">
      <h1 className="text-[15px] font-semibold">{title}</h1>
      <span className="min-w-0 flex-1 truncate text-[13px] text-ink-3">{hint}</span>
      {children}
    </div>
  )
}

const Empty = ({ children }: { children: string }) => <p className="p-6 text-ink-2">{children}</p>

/** A list of letters beside the inbox, as the table of views describes it. */
export function PlaceView() {
  const name = useRouterState({ select: (s) => s.location.pathname.slice(1) as ViewName })
  const { word, hint, empty = '', list } = viewOf(name)
  const groupable = list === 'archive' || list === 'bin' || list === 'junk' ? list : undefined
  const chosen = grouping.use()
  const by = groupable && chosen[groupable]
  const head = (
    <Head title={word} hint={hint}>
      {groupable && <GroupChoice place={groupable} />}
    </Head>
  )
  const above = (
    <>
      {head}
      {list === 'junk' && <JunkLine />}
    </>
  )
  if (groupable && by)
    return (
      <GroupedView
        key={name + by}
        ask={{ place: groupable, by, account: 0 }}
        head={above}
        empty={<Empty>{empty}</Empty>}
      />
    )
  return list && <MailView key={name} list={{ name: list }} head={() => above} empty={<Empty>{empty}</Empty>} />
}
