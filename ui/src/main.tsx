import '@fontsource-variable/schibsted-grotesk'
import '@fontsource-variable/newsreader'
import './styles.css'
import { QueryClientProvider, useQuery } from '@tanstack/react-query'
import { RouterProvider } from '@tanstack/react-router'
import { lazy, StrictMode, Suspense, useEffect, useMemo } from 'react'
import { createRoot } from 'react-dom/client'
import { Toaster } from 'sonner'
import { api, speakFor, take, type Session } from './api/client'
import { client } from './api/queries'
import { fetchViews, makeRouter } from './router'
import { enterAs, whose } from './state/mine'
import { reopen } from './state/writing'
import { followLook, look } from './state/night'

// Most days begin signed in.
const SetUp = lazy(() => import('./views/EnterViews').then((m) => ({ default: m.SetUp })))
const SignIn = lazy(() => import('./views/EnterViews').then((m) => ({ default: m.SignIn })))

const applyLook = followLook()
speakFor(whose)

function Ebbe() {
  const now = look.use()
  useEffect(applyLook, [now])
  const {
    data: session,
    isError,
    refetch,
  } = useQuery({ queryKey: ['session'], queryFn: () => take(api.GET('/api/session')) })
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

function Signed({ session }: { session: Session }) {
  useEffect(() => {
    const timer = setTimeout(() => void fetchViews().catch(() => undefined), 1500)
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
        <Toaster
          style={{ fontFamily: 'inherit' }}
          position="bottom-right"
          offset={{ bottom: 84, right: 16 }}
          mobileOffset={{ bottom: 130 }}
          toastOptions={{
            style: {
              fontFamily: 'inherit',
              background: 'var(--paper)',
              color: 'var(--ink)',
              borderColor: 'var(--line)',
            },
            actionButtonStyle: { background: 'var(--deep)', color: 'var(--on-deep)' },
          }}
        />
      </QueryClientProvider>
    </StrictMode>,
  )
