import type { ChildProcess } from 'node:child_process'
import { spawn } from 'node:child_process'
import { chmodSync, mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs'
import { createServer } from 'node:net'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'

export async function freePort(): Promise<number> {
  const server = createServer()
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const { port } = server.address() as AddressInfo
  await new Promise((resolve) => server.close(resolve))
  return port
}

export { isChildAlive as isAlive } from '#runtime/node/testing/processes'

export const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds))

/** Waits until `reached` gives something that is not false. */
export async function until<T>(reached: () => T | Promise<T>, what: string, seconds = 30): Promise<Exclude<T, false>> {
  for (const started = performance.now(); performance.now() - started < seconds * 1000; await pause(50)) {
    const found = await Promise.resolve()
      .then(reached)
      .catch(() => false as const)
    if (found !== false) return found as Exclude<T, false>
  }
  throw new Error(`not reached within ${seconds} s: ${what}`)
}

const childrenOf = (pid: number): number[] =>
  readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').trim().split(' ').filter(Boolean).map(Number)
const commandOf = (pid: number): string => readFileSync(`/proc/${pid}/cmdline`, 'utf8').replaceAll('\0', ' ')

/** An installation of its own, started by bin/start, with real processes. */
export class Instance {
  readonly data = mkdtempSync(join(tmpdir(), 'instance-'))
  port = 0
  output = ''
  main: ChildProcess | null = null

  get url(): string {
    return `http://127.0.0.1:${this.port}`
  }

  async start(...options: string[]): Promise<void> {
    chmodSync(this.data, 0o711)
    this.port ||= await freePort()
    this.main = this.run('--no-demo', ...options)
    await until(() => this.answers(), 'the first page', 90)
  }

  /** Runs bin/start on these data and gathers what it prints. */
  run(...options: string[]): ChildProcess {
    const env = { ...process.env, DATABASE_URL: '' }
    const child = spawn('bin/start', ['--data', this.data, '--port', String(this.port), ...options], { env })
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (text: Buffer) => (this.output += text))
    return child
  }

  async answers(): Promise<boolean> {
    return (await fetch(this.url, { signal: AbortSignal.timeout(5000) })).status === 200
  }

  /** The process of a service. */
  pid(service: 'server' | 'worker' | 'database'): number {
    const sign = { server: '/server.ts', worker: '/worker.ts', database: '/postgres -D' }[service]
    const found = childrenOf(this.main!.pid!).find((pid) => commandOf(pid).includes(sign))
    if (!found) throw new Error(`no ${service} runs`)
    return found
  }

  descriptors(service: 'server' | 'worker'): number {
    return readdirSync(`/proc/${this.pid(service)}/fd`).length
  }

  /** Asks its database. */
  async query<T>(sql: string): Promise<T[]> {
    const client = new pg.Client({
      host: join(this.data, 'postgres'),
      port: 5432,
      user: 'postgres',
      database: 'postgres',
    })
    await client.connect()
    try {
      return (await client.query(sql)).rows as T[]
    } finally {
      await client.end()
    }
  }

  /** Ends it as Ctrl-C does; gives the seconds that took. */
  async end(): Promise<number> {
    if (!this.main || this.main.exitCode !== null || this.main.signalCode !== null) return 0
    const started = performance.now()
    const over = new Promise((resolve) => this.main!.once('exit', resolve))
    this.main.kill('SIGINT')
    await over
    return (performance.now() - started) / 1000
  }

  async remove(): Promise<void> {
    await this.end()
    rmSync(this.data, { recursive: true, force: true })
  }

  /** Sends what a page would send as JSON. */
  json(path: string, body: unknown, method = 'POST'): Promise<Response> {
    return fetch(this.url + path, {
      method,
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body),
      signal: AbortSignal.timeout(20_000),
    })
  }

  async form(path: string, fields: Record<string, string>): Promise<string> {
    const response = await fetch(`${this.url}${path}`, {
      method: 'POST',
      body: new URLSearchParams(fields),
      signal: AbortSignal.timeout(20_000),
    })
    return response.text()
  }

  /** A project with one material. */
  async material(): Promise<{ project: string; document: string }> {
    // What was made is opened: the answer leads to its material.
    const created = await this.form('/.data?index', { intent: 'create', name: 'Attack' })
    const document = /\/documents\/([0-9a-f-]{36})/.exec(created)![1]!
    const page = await (await fetch(`${this.url}/documents/${document}`)).text()
    return { project: /\/projects\/([0-9a-f-]{36})/.exec(page)![1]!, document }
  }
}
