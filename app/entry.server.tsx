import { PassThrough } from 'node:stream'
import { createReadableStreamFromReadable } from '@react-router/node'
import { isbot } from 'isbot'
import type { RenderToPipeableStreamOptions } from 'react-dom/server'
import { renderToPipeableStream } from 'react-dom/server'
import type { EntryContext } from 'react-router'
import { ServerRouter } from 'react-router'
import { NONCE_HEADER, Nonce } from './nonce'

const TIMEOUT = 10_000

/** Renders a page; every script in it carries the nonce that the security policy of this answer names. */
export default function handleRequest(
  request: Request,
  status: number,
  headers: Headers,
  context: EntryContext,
): Promise<Response> {
  const nonce = request.headers.get(NONCE_HEADER) ?? ''
  return new Promise((resolve, reject) => {
    const ready: keyof RenderToPipeableStreamOptions = isbot(request.headers.get('user-agent') ?? '')
      ? 'onAllReady'
      : 'onShellReady'
    let code = status
    const { pipe, abort } = renderToPipeableStream(
      <Nonce value={nonce}>
        <ServerRouter context={context} url={request.url} nonce={nonce} />
      </Nonce>,
      {
        nonce,
        // Panes come whole with the page, none of them by a script after it.
        progressiveChunkSize: Infinity,
        [ready]() {
          const body = new PassThrough()
          headers.set('Content-Type', 'text/html; charset=utf-8')
          // Who leaves while the page arrives ends its rendering.
          body.once('close', () => {
            clearTimeout(late)
            abort()
          })
          resolve(new Response(createReadableStreamFromReadable(body), { headers, status: code }))
          pipe(body)
        },
        onShellError: reject,
        onError(error: unknown) {
          code = 500
          if (!request.signal.aborted) console.error(error)
        },
      },
    )
    const late = setTimeout(abort, TIMEOUT)
  })
}

/** Only faults of ours are worth a line in the log; a wrong address is not. */
export function handleError(error: unknown, { request }: { request: Request }): void {
  const status = (error as { status?: number }).status
  if (!request.signal.aborted && (status === undefined || status >= 500)) console.error(error)
}
