import { Tooltip } from 'radix-ui'
import { Links, Meta, Outlet, Scripts, ScrollRestoration, isRouteErrorResponse, useRouteError } from 'react-router'
import './app.css'
import { useNonce } from './nonce'
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
        <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: THEME_SCRIPT }} />
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
  return <Outlet />
}

export function ErrorBoundary() {
  const error = useRouteError()
  const message = isRouteErrorResponse(error)
    ? String(error.data)
    : 'The page could not be made. The server’s log says why.'
  return (
    <main className="mx-auto max-w-lg p-10">
      <h1 className="text-lg font-semibold">■ This did not work</h1>
      <p className="mt-3 text-ink-soft">{message}</p>
      <a className="mt-4 inline-block text-accent-ink underline" href="/">
        Load it again
      </a>
    </main>
  )
}
