import { Tooltip } from 'radix-ui'
import { useEffect } from 'react'
import { Links, Meta, Outlet, Scripts, ScrollRestoration, isRouteErrorResponse, useRouteError } from 'react-router'
import './app.css'
import { useNonce } from './nonce'
import { ask } from './session/ask'
import { Trouble } from './session/events/trouble'
import { TEXT_SIZE_SCRIPT } from './ui/text-size'
import { THEME_SCRIPT } from './ui/theme'

export function Layout({ children }: { children: React.ReactNode }) {
  const nonce = useNonce()
  return (
    <html lang="en" suppressHydrationWarning>
      <head>
        <meta charSet="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <link rel="icon" href="data:," />
        <Meta />
        <Links />
        <script
          nonce={nonce}
          suppressHydrationWarning
          dangerouslySetInnerHTML={{ __html: `${THEME_SCRIPT};${TEXT_SIZE_SCRIPT}` }}
        />
      </head>
      <body className="bg-ground font-sans text-ink">
        <Tooltip.Provider delayDuration={300}>{children}</Tooltip.Provider>
        <ScrollRestoration nonce={nonce} />
        <Scripts nonce={nonce} />
      </body>
    </html>
  )
}

export default function Root() {
  return (
    <>
      <Outlet />
      <Trouble />
    </>
  )
}

/** How often a page that could not be made for now is asked for again, in milliseconds. */
const AGAIN = 2000

/** Loads the page again as soon as the server can make it. */
function useAgain(on: boolean): void {
  useEffect(() => {
    if (!on) return
    const timer = setInterval(() => {
      void ask('/up').then(
        ({ ok }) => ok && location.reload(),
        () => {},
      )
    }, AGAIN)
    return () => clearInterval(timer)
  }, [on])
}

/** What browsers throw where a request gets no answer. */
const isUnreachable = (error: unknown): boolean => error instanceof TypeError && /fetch|network/i.test(error.message)

export function ErrorBoundary() {
  const error = useRouteError()
  const passing = (isRouteErrorResponse(error) && error.status === 503) || isUnreachable(error)
  useAgain(passing)
  const message = isRouteErrorResponse(error)
    ? String(error.data)
    : passing
      ? 'Cannot reach the server. This page goes on by itself when it is back; your edits are kept.'
      : 'The page could not be made. The server’s log says why.'
  return (
    <main className="mx-auto max-w-lg p-10">
      <h1 className="text-lg font-semibold">{passing ? '▲ Waiting for the server' : '■ This did not work'}</h1>
      <p className="mt-3 text-ink-soft">{message}</p>
      <a className="mt-4 inline-block text-accent-ink underline" href="/">
        Reload
      </a>
    </main>
  )
}
