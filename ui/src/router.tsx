import {
  createRootRouteWithContext,
  createRoute,
  createRouter,
  lazyRouteComponent,
  Navigate,
  redirect,
} from '@tanstack/react-router'
import type { Session } from './api/client'
import { InboxView } from './views/InboxView'
import { fetchMenus } from './kit/Menu'
import { lists } from './state/viewing'
import type { Sought } from './state/seeking'
import { Shell } from './shell/Shell'

// The inbox comes with the page; the other views follow while it is read, so
// that they are there when they are wanted, also without the server.
const places = () => import('./views/PlaceViews')
const searching = () => import('./views/SearchView')
const waiting = () => import('./views/WaitingView')
const shallows = () => import('./views/ShallowsView')
const ahead = () => import('./views/AheadView')
const times = () => import('./views/TimesView')
const tracking = () => import('./views/FollowUpsView')
const delivery = () => import('./views/DeliveryView')
const work = () => import('./views/WorkView')
const routines = () => import('./views/RoutinesView')
const labels = () => import('./views/LabelsView')
const attached = () => import('./views/AttachedView')
const people = () => import('./views/PeopleView')
const daySheet = () => import('./views/DaySheetView')
const backlog = () => import('./views/BacklogView')
const rules = () => import('./views/RulesView')
const sitting = () => import('./views/SittingView')
const keeping = () => import('./views/JournalView')
const files = () => import('./views/FilesView')
const accounts = () => import('./views/AccountsView')
const templates = () => import('./views/TemplatesView')
const signedIn = () => import('./views/SignedIn')
const writeView = () => import('./views/WriteView')
const single = () => import('./views/LetterView')
export const fetchViews = () =>
  Promise.all([
    places(),
    shallows(),
    waiting(),
    ahead(),
    times(),
    delivery(),
    tracking().then((m) => m.warm()),
    work(),
    sitting(),
    routines(),
    rules(),
    backlog(),
    daySheet(),
    labels(),
    import('./sitting/BeginDialog'),
    keeping(),
    single(),
    files(),
    accounts(),
    templates(),
    fetchMenus(),
    import('./letters/AgainDialog'),
    import('./followups/FollowUpDialog'),
    import('./followups/CaptureDialog'),
    import('./days/AppointmentDialog'),
    import('./delivery/HoldDialog'),
    import('./letters/LaterDialog'),
    import('./letters/LabelDialog'),
    import('./letters/Composer'),
    import('./shell/Ringing'),
    import('./days/Invitation'),
  ])

interface Context {
  session: Session
  onSignOut: () => void
}

const root = createRootRouteWithContext<Context>()({
  component: function Root() {
    const { session, onSignOut } = root.useRouteContext()
    return <Shell session={session} onSignOut={onSignOut} />
  },
  notFoundComponent: () => <Navigate to="/inbox" replace />,
})

const number = (v: unknown) => (Number.isFinite(Number(v)) && v !== undefined ? Number(v) : undefined)

const word = (v: unknown) => (v === undefined ? undefined : String(v))

const routes = [
  createRoute({
    getParentRoute: () => root,
    path: '/',
    beforeLoad: () => {
      throw redirect({ to: '/inbox' })
    },
  }),
  createRoute({ getParentRoute: () => root, path: '/inbox', component: InboxView }),
  createRoute({
    getParentRoute: () => root,
    path: '/follow-ups',
    component: lazyRouteComponent(tracking, 'FollowUpsView'),
    validateSearch: (s: Record<string, unknown>): { open?: number } => ({ open: number(s['open']) }),
  }),
  createRoute({ getParentRoute: () => root, path: '/work', component: lazyRouteComponent(work, 'WorkView') }),
  createRoute({ getParentRoute: () => root, path: '/backlog', component: lazyRouteComponent(backlog, 'BacklogView') }),
  createRoute({
    getParentRoute: () => root,
    path: '/attached',
    component: lazyRouteComponent(attached, 'AttachedView'),
    validateSearch: (s: Record<string, unknown>): { near?: string } => ({ near: word(s['near']) }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: '/people',
    component: lazyRouteComponent(people, 'PeopleView'),
    validateSearch: (s: Record<string, unknown>): { of?: string; group?: number } => ({
      of: word(s['of']),
      group: number(s['group']),
    }),
  }),
  createRoute({ getParentRoute: () => root, path: '/labels', component: lazyRouteComponent(labels, 'LabelsView') }),
  createRoute({
    getParentRoute: () => root,
    path: '/day-sheet',
    component: lazyRouteComponent(daySheet, 'DaySheetView'),
    validateSearch: (s: Record<string, unknown>): { of?: 'week' | 'month' | 'year'; date?: string } => ({
      of: s['of'] === 'week' || s['of'] === 'month' || s['of'] === 'year' ? s['of'] : undefined,
      date: word(s['date']),
    }),
  }),
  createRoute({ getParentRoute: () => root, path: '/rules', component: lazyRouteComponent(rules, 'RulesView') }),
  createRoute({
    getParentRoute: () => root,
    path: '/routines',
    component: lazyRouteComponent(routines, 'RoutinesView'),
  }),
  createRoute({
    getParentRoute: () => root,
    path: '/sitting',
    component: lazyRouteComponent(sitting, 'SittingView'),
  }),
  createRoute({ getParentRoute: () => root, path: '/waiting', component: lazyRouteComponent(waiting, 'WaitingView') }),
  createRoute({
    getParentRoute: () => root,
    path: '/shallows',
    component: lazyRouteComponent(shallows, 'ShallowsView'),
  }),
  createRoute({ getParentRoute: () => root, path: '/ahead', component: lazyRouteComponent(ahead, 'AheadView') }),
  createRoute({ getParentRoute: () => root, path: '/drafts', component: lazyRouteComponent(keeping, 'DraftsView') }),
  createRoute({ getParentRoute: () => root, path: '/journal', component: lazyRouteComponent(keeping, 'JournalView') }),
  createRoute({ getParentRoute: () => root, path: '/times', component: lazyRouteComponent(times, 'TimesView') }),
  createRoute({
    getParentRoute: () => root,
    path: '/delivery',
    component: lazyRouteComponent(delivery, 'DeliveryView'),
  }),
  createRoute({ getParentRoute: () => root, path: '/files', component: lazyRouteComponent(files, 'FilesView') }),
  createRoute({
    getParentRoute: () => root,
    path: '/accounts',
    component: lazyRouteComponent(accounts, 'AccountsView'),
  }),
  createRoute({
    getParentRoute: () => root,
    path: '/templates',
    component: lazyRouteComponent(templates, 'TemplatesView'),
    validateSearch: (s: Record<string, unknown>): { of?: number } => ({ of: number(s['of']) }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: '/write',
    component: lazyRouteComponent(writeView, 'WriteView'),
    validateSearch: (
      s: Record<string, unknown>,
    ): { mailto?: string; subject?: string; text?: string; url?: string; shared?: string; draft?: string } => ({
      mailto: word(s['mailto']),
      subject: word(s['subject']),
      text: word(s['text']),
      url: word(s['url']),
      shared: word(s['shared']),
      draft: word(s['draft']),
    }),
  }),
  createRoute({ getParentRoute: () => root, path: '/signed-in', component: lazyRouteComponent(signedIn, 'SignedIn') }),
  createRoute({
    getParentRoute: () => root,
    path: '/search',
    component: lazyRouteComponent(searching, 'SearchView'),
    validateSearch: (s: Record<string, unknown>): Sought => ({
      q: s['q'] === undefined ? undefined : String(s['q']),
      within: word(s['within']),
      best: s['best'] === true || undefined,
    }),
  }),
  createRoute({
    getParentRoute: () => root,
    path: '/letter/$id',
    component: lazyRouteComponent(single, 'LetterView'),
    validateSearch: (s: Record<string, unknown>): { ask?: 'follow-up' } => ({
      ask: s['ask'] === 'follow-up' ? 'follow-up' : undefined,
    }),
  }),
  ...lists.map((name) =>
    createRoute({ getParentRoute: () => root, path: `/${name}`, component: lazyRouteComponent(places, 'PlaceView') }),
  ),
] as const

export const makeRouter = (context: Context) => createRouter({ routeTree: root.addChildren(routes), context })

declare module '@tanstack/react-router' {
  interface Register {
    router: ReturnType<typeof makeRouter>
  }
}
