import { expect, test } from '@playwright/test'
import { createHash, randomUUID } from 'node:crypto'
import { request as ask } from 'node:http'
import type { IncomingMessage, OutgoingHttpHeaders } from 'node:http'
import { connect } from 'node:net'
import type { Socket } from 'node:net'
import { until } from './support/instance'

/** What a stranger, a broken client or another site may send: an answer below 500 in words, and the server goes on. */
const PORT = 4391
const OWN = `http://127.0.0.1:${PORT}`

interface Answer {
  readonly status: number
  readonly text: string
}

const send = (
  method: string,
  path: string,
  { headers = {}, body }: { headers?: OutgoingHttpHeaders; body?: string | Uint8Array } = {},
): Promise<Answer> =>
  new Promise((resolve, reject) => {
    const asked = ask({ host: '127.0.0.1', port: PORT, method, path, headers }, (response: IncomingMessage) => {
      let text = ''
      response.on('data', (part: Buffer) => (text += part))
      response.on('end', () => resolve({ status: response.statusCode!, text }))
    })
    asked.on('error', reject)
    asked.end(body)
  })
const json = (body: unknown, headers: OutgoingHttpHeaders = {}) => ({
  headers: { 'Content-Type': 'application/json', ...headers },
  body: typeof body === 'string' ? body : JSON.stringify(body),
})

let project: string
let document: string
test.beforeAll(async () => {
  const created = await send('POST', '/.data?index', {
    headers: { 'Content-Type': 'application/x-www-form-urlencoded' },
    body: 'intent=create&name=Strangers',
  })
  document = /\/documents\/([0-9a-f-]{36})/.exec(created.text)![1]!
  project = /\/projects\/([0-9a-f-]{36})/.exec((await send('GET', `/documents/${document}`)).text)![1]!
})
const edits = (value: unknown, more: object = {}) => ({
  base: 0,
  edits: [
    {
      id: randomUUID(),
      kind: 'edit',
      label: 'Name',
      patches: [{ op: 'replace', path: ['name'], value }],
      inverse: [{ op: 'replace', path: ['name'], value: 'Material 1' }],
      ...more,
    },
  ],
})

test('another name in the Host header is not answered, as a page of another site could carry it (DNS rebinding)', async () => {
  for (const host of ['evil.example', 'evil.example:4391', '127.0.0.1.evil.example', 'x@127.0.0.1'])
    for (const method of ['GET', 'POST'])
      expect([host, (await send(method, '/', { headers: { Host: host } })).status]).toEqual([host, 421])
  for (const host of ['127.0.0.1', `127.0.0.1:${PORT}`, 'localhost', 'LOCALHOST:1', '[::1]:4391'])
    expect([host, (await send('GET', '/', { headers: { Host: host } })).status]).toEqual([host, 200])
})

test('pages of other sites change nothing, whatever their Origin says', async () => {
  const form = { 'Content-Type': 'application/x-www-form-urlencoded' }
  for (const headers of [
    { Origin: 'null' },
    { Origin: 'https://evil.example' },
    { Origin: 'not an address' },
    { 'Sec-Fetch-Site': 'cross-site' },
    { 'Sec-Fetch-Site': 'none', Origin: OWN },
  ])
    expect(
      (await send('POST', '/?index', { headers: { ...form, ...headers }, body: 'intent=create&name=X' })).status,
    ).toBe(403)
})

test('odd methods, addresses and bodies are answered in words, never with 500', async () => {
  const states = `/documents/${document}/states`
  const deep = `${'['.repeat(50_000)}${']'.repeat(50_000)}`
  const cases: [number, string, string, Parameters<typeof send>[2]?][] = [
    [405, 'TRACE', '/'],
    [405, 'PATCH', '/'],
    [405, 'OPTIONS', '/'],
    [400, 'GET', '/documents/%00'],
    [400, 'GET', '/%E0%A4%A'],
    [400, 'GET', '/assets/file?name=%00'],
    [404, 'GET', '/assets/nothing/file'],
    [404, 'GET', '/documents/1;drop'],
    [415, 'POST', '/?index', { headers: { 'Content-Type': 'text/plain' }, body: 'intent=create' }],
    [415, 'POST', '/?index', { body: 'intent=create' }],
    [415, 'POST', states, { headers: { 'Content-Type': 'text/plain' }, body: '{}' }],
    [415, 'POST', '/jobs', { headers: { 'Content-Type': 'multipart/form-data; boundary=x' }, body: '--x--' }],
    [400, 'POST', states, json('{')],
    [400, 'POST', states, json(deep)],
    [400, 'POST', states, json(`{"a":${deep}}`)],
    [400, 'POST', states, json({ revision: 2 ** 40, name: 'x' })],
    [400, 'POST', states, json({ revision: 0, name: 'a\0b' })],
    [400, 'POST', states, json('{"revision":0,"name":"\\ud83e"}')],
    [400, 'GET', `/documents/${document}/edits?since=99999999999`],
    [400, 'GET', `/documents/${document}/revisions/99999999999`],
    [404, 'GET', `/documents/${document}/revisions/999`],
    [400, 'POST', `/documents/${document}/edits`, json({ ...edits('x'), base: 2 ** 33 })],
    [400, 'POST', `/documents/${document}/edits`, json(edits('a\0b'))],
    [400, 'POST', `/documents/${document}/edits`, json(JSON.stringify(edits('AB')).replace('AB', '\\udc00'))],
    [400, 'PUT', `/projects/${project}/packings`, json({ packing: { name: '\0' }, base: null })],
    [400, 'GET', '/events'],
    [400, 'GET', '/events?topic=document:nothing'],
    [
      422,
      'POST',
      `/documents/${document}/edits`,
      json(
        edits('x', {
          patches: [
            {
              op: 'add',
              path: ['nodes', 'p'],
              value: { type: 'image', params: { image: `sha256:${'0'.repeat(64)}` } },
            },
          ],
          inverse: [{ op: 'remove', path: ['nodes', 'p'] }],
        }),
      ),
    ],
  ]
  for (const [status, method, path, options] of cases) {
    const answer = await send(method, path, options)
    expect([method, path, options?.body?.slice(0, 60), answer.status, answer.text.slice(0, 300)]).toEqual([
      method,
      path,
      options?.body?.slice(0, 60),
      status,
      expect.stringMatching(method === 'TRACE' ? /./ : /[a-z]/),
    ])
    expect(answer.text).not.toMatch(/ at \/|node_modules|Error:/)
  }
  // What was refused left nothing.
  expect((await send('GET', `/documents/${document}/edits?since=0`)).text).toContain('"head":0')
})

test('a body without a stated length is counted too', async () => {
  /** Sends a body without an end until the server answers or hangs up. What it said, and the bytes it let come. */
  const flood = async (): Promise<{ answer: string; sent: number }> => {
    const socket = connect(PORT, '127.0.0.1')
    let answer = ''
    socket.on('data', (part) => (answer += part))
    socket.on('error', () => {})
    socket.write(
      `POST /documents/${document}/states HTTP/1.1\r\nHost: 127.0.0.1:${PORT}\r\nContent-Type: application/json\r\nTransfer-Encoding: chunked\r\n\r\n`,
    )
    const chunk = Buffer.alloc(1 << 16, 32)
    let sent = 0
    while (!answer && !socket.destroyed && sent < 64 << 20) {
      if (!socket.write(Buffer.concat([Buffer.from('10000\r\n'), chunk, Buffer.from('\r\n')])))
        await new Promise((resolve) => (socket.once('drain', resolve), setTimeout(resolve, 200)))
      sent += chunk.length
      await new Promise((resolve) => setImmediate(resolve))
    }
    socket.destroy()
    return { answer, sent }
  }
  // Who goes on sending after the server hung up may lose what it said: RFC 9112, section 9.6.
  const tries = []
  for (let i = 0; i < 5 && !tries.at(-1)?.answer; i++) tries.push(await flood())
  expect(tries.at(-1)!.answer).toContain('413')
  for (const { sent } of tries) expect(sent).toBeLessThan(16 << 20)
})

test('uploads that stall hold up nobody, are given up, and are limited for each client', async () => {
  const sockets: Socket[] = []
  const answers: string[] = []
  const hash = createHash('sha256').update('never').digest('hex')
  try {
    for (let i = 0; i < 24; i++) {
      const socket = connect(PORT, '127.0.0.1')
      sockets.push(socket)
      socket.on('error', () => {})
      socket.on('data', (part) => (answers[i] = (answers[i] ?? '') + part))
      socket.write(
        `POST /assets?name=x.png HTTP/1.1\r\nHost: 127.0.0.1:${PORT}\r\nX-Content-SHA256: ${hash}\r\nContent-Length: 1000000\r\n\r\nabc`,
      )
    }
    await until(() => answers.filter((text) => text?.includes('429')).length >= 16, 'those beyond the limit are told')
    for (let i = 0; i < 5; i++) expect((await send('GET', `/projects/${project}`)).status).toBe(200)
    // Before any of those that stall is given up.
    expect(answers.some((text) => text?.includes('408'))).toBe(false)
    await until(() => answers.filter((text) => text?.includes('408')).length === 8, 'the rest is given up', 40)
  } finally {
    sockets.forEach((socket) => socket.destroy())
  }
})

test('event streams are limited for each client', async () => {
  const stops: AbortController[] = []
  const open = async (): Promise<number> => {
    const stop = new AbortController()
    stops.push(stop)
    return (await fetch(`${OWN}/events?topic=runs`, { signal: stop.signal })).status
  }
  const statuses = await Promise.all(Array.from({ length: 40 }, open))
  expect(statuses.filter((status) => status === 200)).toHaveLength(24)
  expect(statuses.filter((status) => status === 429)).toHaveLength(16)
  stops.forEach((stop) => stop.abort())
  await until(async () => (await open()) === 200, 'streams are free again')
  stops.at(-1)!.abort()
})
