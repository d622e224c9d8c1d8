import { randomBytes } from 'node:crypto'
import compression from 'compression'
import express from 'express'
import type { NextFunction, Request, Response } from 'express'
import { createRequestHandler } from '@react-router/express'
import type { ServerBuild } from 'react-router'
import { NONCE_HEADER } from './app/nonce'

/**
 * The HTTP server, in development and production. It sends the isolation headers on everything, so that workers may
 * share memory (HTML Living Standard, cross-origin isolation).
 */
const production = process.env.NODE_ENV !== 'development'
const port = Number(process.env.PORT ?? 4310)
const host = process.env.HOST ?? '127.0.0.1'

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

/** Requests that change something come from our own pages only (Fetch Metadata; Origin where a browser lacks it). */
function fromElsewhere({ method, headers }: Request): boolean {
  if (['GET', 'HEAD', 'OPTIONS'].includes(method)) return false
  const site = headers['sec-fetch-site']
  if (site !== undefined) return site !== 'same-origin'
  return headers.origin !== undefined && new URL(headers.origin).host !== headers.host
}

const app = express()
app.disable('x-powered-by')
app.use((request: Request, response: Response, next: NextFunction) => {
  if (fromElsewhere(request)) return void response.status(403).send('This request came from another site.')
  const nonce = randomBytes(16).toString('base64')
  // Handed to the renderer (app/entry.server.tsx); whatever a client sent under this name is overwritten.
  request.headers[NONCE_HEADER] = nonce
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
app.use(compression())

if (production) {
  app.use('/assets', express.static('build/client/assets', { immutable: true, maxAge: '1y' }))
  app.use(express.static('build/client', { maxAge: '1h' }))
  const built = new URL('./build/server/index.js', import.meta.url).href
  app.all('*all', createRequestHandler({ build: () => import(built) as Promise<ServerBuild> }))
} else {
  const { createServer } = await import('vite')
  const vite = await createServer({ server: { middlewareMode: true } })
  app.use(vite.middlewares)
  const build = () => vite.ssrLoadModule('virtual:react-router/server-build') as Promise<ServerBuild>
  app.all('*all', createRequestHandler({ build }))
}

const server = app.listen(port, host, (error?: Error) => {
  if (error) {
    console.error(
      (error as NodeJS.ErrnoException).code === 'EADDRINUSE'
        ? `Port ${port} is taken. Choose another one: bin/start --port N`
        : error.message,
    )
    process.exit(1)
  }
  console.log(`Amber Grist is at http://${host.includes(':') ? `[${host}]` : host}:${port}/`)
})

for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () => {
    server.close(() => process.exit(0))
    server.closeAllConnections()
  })
