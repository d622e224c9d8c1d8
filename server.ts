import { randomBytes } from 'node:crypto'
import { hostname, networkInterfaces } from 'node:os'
import compression from 'compression'
import express from 'express'
import staticGzip from 'express-static-gzip'
import type { NextFunction, Request, Response } from 'express'
import { createRequestHandler } from '@react-router/express'
import type { ServerBuild } from 'react-router'
import { NONCE_HEADER } from './app/nonce'
import { CLIENT_HEADER } from './app/server/http/client'
import { isDatabaseAway } from './app/server/database/database.server'
import { endOnUncaught } from './runtime/node/uncaught'

/**
 * The HTTP server, in development and production. It sends the isolation headers on everything, so that workers may
 * share memory (HTML Living Standard, cross-origin isolation).
 */
endOnUncaught('server', isDatabaseAway)
const production = process.env.NODE_ENV !== 'development'
const port = Number(process.env.PORT ?? 4310)
const host = process.env.HOST ?? '127.0.0.1'

/** Milliseconds that requests under way have to come to their end when the server is told to end. */
const GRACE = 1500

/**
 * Names under which this server may be called: those of this machine, and of HOST_NAMES (with commas between). Another name
 * in the Host header is a page of somebody else's whose address was made to lead here (DNS rebinding).
 */
const names = new Set(
  [
    ...['localhost', '127.0.0.1', '[::1]', bracketed(host)],
    ...(isLoopback(host) ? [] : [hostname(), ...ownAddresses()]),
    ...(process.env.HOST_NAMES ?? '').split(','),
  ]
    .map((name) => name.trim().toLowerCase())
    .filter((name) => name !== ''),
)
function bracketed(address: string): string {
  return address.includes(':') ? `[${address}]` : address
}
function isLoopback(address: string): boolean {
  return address === 'localhost' || address === '::1' || address.startsWith('127.')
}
function ownAddresses(): string[] {
  return Object.values(networkInterfaces()).flatMap((list) => (list ?? []).map(({ address }) => bracketed(address)))
}

/** Sources of what a page may load: our own only; scripts in the page carry the nonce of the request. */
const contentPolicy = (nonce: string): string =>
  [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'wasm-unsafe-eval'`,
    `style-src 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "worker-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ')

const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'DELETE']

/** Why a request is not answered, with its status; null where it is. */
function refusal({ method, headers, originalUrl }: Request): [number, string] | null {
  const called = (headers.host ?? '').toLowerCase().replace(/:\d*$/, '')
  if (!names.has(called)) return [421, `This server does not answer to the name ${JSON.stringify(called)}.`]
  if (!METHODS.includes(method)) return [405, `Expected one of ${METHODS.join(', ')}.`]
  if (!isSound(originalUrl)) return [400, 'This is not an address.']
  if (['GET', 'HEAD'].includes(method)) return null
  return isOurPage(headers) ? null : [403, 'This request came from another site.']
}

/** Whether an address can be read, and holds no control characters. */
function isSound(address: string): boolean {
  try {
    // Control characters are what is looked for.
    // eslint-disable-next-line no-control-regex
    return !/[\x00-\x1f]/.test(decodeURIComponent(address.split('?')[0]!)) && !/%00/.test(address)
  } catch {
    return false
  }
}

/** Requests that change something come from our own pages only (Fetch Metadata; Origin where a browser lacks it). */
function isOurPage(headers: Request['headers']): boolean {
  const site = headers['sec-fetch-site']
  if (site !== undefined) return site === 'same-origin'
  if (headers.origin === undefined) return true
  return URL.canParse(headers.origin) && new URL(headers.origin).host === headers.host
}

const app = express()
app.disable('x-powered-by')
app.use((request: Request, response: Response, next: NextFunction) => {
  const refused = refusal(request)
  if (refused) {
    if (refused[0] === 405) response.set('Allow', METHODS.join(', '))
    return void response.status(refused[0]).type('text/plain').send(refused[1])
  }
  const nonce = randomBytes(16).toString('base64')
  // Handed to the renderer (app/entry.server.tsx) and the routes; whatever a client sent under these names is overwritten.
  request.headers[NONCE_HEADER] = nonce
  request.headers[CLIENT_HEADER] = request.socket.remoteAddress ?? ''
  if (production) response.set('Content-Security-Policy', contentPolicy(nonce))
  response.set({
    'Cross-Origin-Opener-Policy': 'same-origin',
    'Cross-Origin-Embedder-Policy': 'require-corp',
    'Cross-Origin-Resource-Policy': 'same-origin',
    'X-Content-Type-Options': 'nosniff',
    'Referrer-Policy': 'same-origin',
    'Permissions-Policy': 'camera=(), microphone=(), geolocation=()',
  })
  next()
})
if (production)
  // Compressed when they were built (scripts/compress-assets.mjs).
  app.use(
    '/assets',
    staticGzip('build/web/client/assets', {
      enableBrotli: true,
      orderPreference: ['br'],
      serveStatic: { immutable: true, maxAge: '1y' },
    }),
  )
app.use(compression())

if (production) {
  app.use(express.static('build/web/client', { maxAge: '1h' }))
  const built = new URL('./build/web/server/index.js', import.meta.url).href
  app.all('*all', createRequestHandler({ build: () => import(built) as Promise<ServerBuild> }))
} else {
  const { createServer } = await import('vite')
  const vite = await createServer({ server: { middlewareMode: true } })
  app.use(vite.middlewares)
  const build = () => vite.ssrLoadModule('virtual:react-router/server-build') as Promise<ServerBuild>
  app.all('*all', createRequestHandler({ build }))
}
// What went wrong before or beside the application: no details leave.
app.use((error: Error & { status?: number }, _request: Request, response: Response, next: NextFunction) => {
  if (response.headersSent) return next(error)
  const status = error.status && error.status < 500 ? error.status : 500
  if (status === 500) console.error(error)
  response
    .status(status)
    .type('text/plain')
    .send(status === 500 ? 'This did not work. The server’s log says why.' : 'This request cannot be understood.')
})

const server = app.listen(port, host, (error?: Error) => {
  if (error) {
    console.error(
      (error as NodeJS.ErrnoException).code === 'EADDRINUSE'
        ? `Port ${port} is taken. Choose another one: bin/start --port N`
        : error.message,
    )
    process.exit(1)
  }
  console.log(`Amber Grist is at http://${bracketed(host)}:${port}/`)
})
// An upload may take as long as it needs while it goes on; bodies that stall are given up where they are read.
server.requestTimeout = 0
server.headersTimeout = 20_000

for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () => {
    server.close(() => process.exit(0))
    server.closeIdleConnections()
    setTimeout(() => process.exit(0), GRACE)
  })
