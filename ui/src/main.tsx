import '@fontsource-variable/schibsted-grotesk'
import '@fontsource-variable/newsreader'
import './styles.css'
import { QueryClientProvider } from '@tanstack/react-query'
import { RouterProvider } from '@tanstack/react-router'
import { lazy, StrictMode, Suspense, useEffect, useMemo } from 'react'
import { createRoot } from 'react-dom/client'
import { speakFor, type Session } from './api/client'
import { client, useSession } from './api/queries'
import { fetchViews, makeRouter } from './router'
import { enterAs, whose } from './state/mine'
import { reopen } from './state/writing'
import { followLook, look } from './state/night'
import { afterPaint } from './state/paint'
import { fetchToasts, useToastsWanted } from './state/toast'

// Most days begin signed in.
const SetUp = lazy(() => import('./views/EnterViews').then((m) => ({ default: m.SetUp })))
const SignIn = lazy(() => import('./views/EnterViews').then((m) => ({ default: m.SignIn })))

const toasts = () => import('./kit/Toasts')
const Toasts = lazy(() => toasts().then((m) => ({ default: m.Toasts })))

const applyLook = followLook()
speakFor(whose)

function Ebbe() {
  const now = look.use()
  useEffect(applyLook, [now])
  const { data: session, isError, refetch } = useSession()
  const entered = (s: Session) => {
    client.removeQueries({ predicate: (q) => q.queryKey[0] !== 'session' })
    client.setQueryData(['session'], s)
  }
  if (isError)
    return (
      <main className="grid min-h-full place-items-center">
        <div role="alert" className="text-center">
          <p className="font-semibold">Ebbe can’t be reached.</p>
          <button className="btn mt-3" onClick={() => void refetch()}>
            Try again
          </button>
        </div>
      </main>
    )
  if (!session) return null
  if (enterAs(session.me?.id ?? 0)) reopen()
  if (session.state === 'setup') return <SetUp onDone={entered} />
  if (session.state === 'signed-out') return <SignIn session={session} onDone={entered} />
  return <Signed session={session} />
}

/** What was done, said for a moment. */
function Said() {
  return <Suspense>{useToastsWanted() && <Toasts />}</Suspense>
}

function Signed({ session }: { session: Session }) {
  useEffect(() => {
    const timer = setTimeout(() => {
      void fetchViews().catch(() => undefined)
    }, 1500)
    return () => clearTimeout(timer)
  }, [])
  const router = useMemo(
    () =>
      makeRouter({
        session,
        onSignOut: () => {
          client.clear()
          location.assign('/')
        },
      }),
    [session],
  )
  return <RouterProvider router={router} />
}

const page = document.getElementById('page')
if (page)
  createRoot(page).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <Suspense>
          <Ebbe />
        </Suspense>
        <Said />
      </QueryClientProvider>
    </StrictMode>,
  )
afterPaint(() => fetchToasts(toasts))
