import { expect, test } from '@playwright/test'
import { spawn, spawnSync } from 'node:child_process'
import { createHash, randomUUID } from 'node:crypto'
import {
  existsSync,
  readFileSync,
  readdirSync,
  readlinkSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { connect } from 'node:net'
import { join } from 'node:path'
import sharp from 'sharp'
import { packings } from '#core/texture/packings/packings.generated'
import { Instance, isAlive, pause, until } from './support/instance'

/** Real processes of an installation of its own, killed, restarted and starved. No page is needed. */
test.describe.configure({ mode: 'serial' })
test.setTimeout(180_000)

const instance = new Instance()
let document: string
test.beforeAll(async () => {
  test.setTimeout(180_000)
  await instance.start()
  document = (await instance.material()).document
})
test.afterAll(() => instance.remove())

const edit = (label: string, path: (string | number)[], value: unknown, before?: unknown) => ({
  id: randomUUID(),
  kind: 'edit',
  label,
  patches: [{ op: before === undefined ? 'add' : 'replace', path, value }],
  inverse: [before === undefined ? { op: 'remove', path } : { op: 'replace', path, value: before }],
})
const headOf = async (): Promise<number> =>
  ((await (await fetch(`${instance.url}/documents/${document}/edits?since=0`)).json()) as { head: number }).head
const save = async (one: object): Promise<Response> =>
  instance.json(`/documents/${document}/edits`, { base: await headOf(), edits: [one] })
const bake = async (width: number): Promise<void> => {
  const packing = packings.find(({ name }) => name === 'separate-maps')!
  const wanted = { intent: 'make', packing, width, dither: false, sharpen: 0, revision: await headOf() }
  expect((await instance.json(`/documents/${document}/maps.data`, wanted)).status).toBeLessThan(300)
}
/** Runs as the jobs page has them. */
const jobs = async (): Promise<string> => (await fetch(`${instance.url}/jobs.data`)).text()

/** Asks for an address and leaves after the first bytes. */
const leave = (path: string): Promise<void> =>
  new Promise((resolve) => {
    const socket = connect(instance.port, '127.0.0.1', () =>
      socket.write(`GET ${path} HTTP/1.1\r\nHost: 127.0.0.1:${instance.port}\r\n\r\n`),
    )
    socket.once('data', () => socket.destroy())
    socket.once('error', () => {})
    socket.once('close', () => resolve())
  })

/** Connections of the database that are busy or in a transaction, the asking one left out. */
async function busyConnections(): Promise<number> {
  const [row] = await instance.query<{ n: number }>(
    `select count(*)::int as n from pg_stat_activity where state = 'active' or state like 'idle in%'`,
  )
  return row!.n - 1
}

test('500 loads of long pages and files that are left while they arrive: the server lives, nothing is left open', async () => {
  const nodes = Object.fromEntries(
    Array.from({ length: 450 }, (_, i) => [`n${i}`, { type: 'noise', name: `Node ${i} ${'x'.repeat(150)}` }]),
  )
  expect((await save(edit('Nodes', ['nodes'], nodes, {}))).status).toBe(200)
  const noise = Buffer.from(Array.from({ length: 512 * 512 * 3 }, (_, i) => (i * 2654435761) >>> 24))
  const png = await sharp(noise, { raw: { width: 512, height: 512, channels: 3 } })
    .png()
    .toBuffer()
  const sha256 = createHash('sha256').update(png).digest('hex')
  const sent = await fetch(`${instance.url}/assets?name=noise.png`, {
    method: 'POST',
    headers: { 'X-Content-SHA256': sha256 },
    body: new Uint8Array(png),
  })
  expect(sent.status).toBe(200)
  const paths = [`/documents/${document}`, `/assets/${sha256}/raster`, `/assets/${sha256}/file`]
  expect((await (await fetch(instance.url + paths[0]!)).text()).length).toBeGreaterThan(150_000)
  const pid = instance.pid('server')
  await Promise.all(paths.map(leave))
  const before = instance.descriptors('server')
  for (let n = 0; n < 500; n += 10) await Promise.all(Array.from({ length: 10 }, (_, i) => leave(paths[(n + i) % 3]!)))
  expect(await instance.answers()).toBe(true)
  expect(instance.pid('server')).toBe(pid)
  await until(() => instance.descriptors('server') <= before + 4, 'descriptors are closed')
  await until(async () => (await busyConnections()) === 0, 'connections are back')
})

test('each service that is killed is started again, the database at its own address, and the others live', async () => {
  for (const service of ['worker', 'server', 'database'] as const) {
    const others = (['worker', 'server', 'database'] as const).filter((one) => one !== service)
    const before = others.map((one) => instance.pid(one))
    const pid = instance.pid(service)
    // In the middle of bakes: the worker writes to the database all the time.
    if (service === 'database') for (let i = 0; i < 3; i++) await bake(128)
    process.kill(pid, 'SIGKILL')
    await until(() => instance.pid(service) !== pid, `another ${service}`)
    await until(() => instance.answers(), 'pages')
    await until(async () => !/"(queued|running)"/.test(await jobs()), 'bakes end', 90)
    expect(others.map((one) => instance.pid(one))).toEqual(before)
  }
  await bake(64)
  await until(async () => /"done"/.test(await jobs()), 'a bake', 60)
})

test('while the database is away pages say so with 503, edits are not taken, and all goes on by itself', async ({
  page,
}) => {
  const [here, elsewhere] = ['postgres', 'elsewhere'].map((name) => join(instance.data, name)) as [string, string]
  const head = await headOf()
  const others = (['server', 'worker'] as const).map((one) => instance.pid(one))
  renameSync(here, elsewhere)
  process.kill(instance.pid('database'), 'SIGKILL')
  const unsaved = edit('Seed', ['seed'], 99, 0)
  const send = () => instance.json(`/documents/${document}/edits`, { base: head, edits: [unsaved] })
  try {
    await until(async () => (await fetch(`${instance.url}/jobs`)).status === 503, 'pages say so')
    expect(await (await fetch(`${instance.url}/jobs`)).text()).toContain('The database cannot be reached right now')
    const answer = await send()
    expect([answer.status, await answer.json()]).toEqual([503, { error: expect.stringContaining('cannot be reached') }])
    await page.goto(`${instance.url}/jobs`)
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('▲ Waiting for the server')
    await expect(page.getByRole('main')).toContainText('The database cannot be reached right now')
  } finally {
    renameSync(elsewhere, here)
  }
  await until(() => instance.answers(), 'pages')
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Jobs')
  expect((await send()).status).toBe(200)
  expect((['server', 'worker'] as const).map((one) => instance.pid(one))).toEqual(others)
})

test('a worker that is away is told; one that starts before its database waits for it', async ({ page }) => {
  const client = new AbortController()
  const stream = await fetch(`${instance.url}/events?topic=health`, { signal: client.signal })
  const reader = stream.body!.getReader()
  let heard = ''
  const hear = async (words: string): Promise<void> => {
    const until = performance.now() + 45_000
    while (!heard.includes(words)) {
      if (performance.now() > until) throw new Error(`not heard: ${words}; but ${heard}`)
      heard += new TextDecoder().decode((await reader.read()).value)
    }
  }
  await page.goto(`${instance.url}/jobs`)
  const trouble = page.getByRole('status', { name: 'Trouble' })
  process.kill(instance.pid('worker'), 'SIGSTOP')
  // As if twenty seconds had passed.
  await instance.query(`update workers set heard_at = now() - interval '21 seconds'`)
  await hear('No worker has been heard of for 20 s; bakes wait.')
  await expect(trouble).toHaveText('▲ No worker has been heard of for 20 s; bakes wait.')
  heard = ''
  process.kill(instance.pid('worker'), 'SIGCONT')
  await hear('"trouble":null')
  client.abort()
  await expect(trouble).toBeHidden()
  // And a server that is away: the page stays as it is.
  process.kill(instance.pid('server'), 'SIGSTOP')
  const stopped = instance.pid('server')
  process.kill(stopped, 'SIGKILL')
  await until(() => instance.answers(), 'another server')
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Jobs')

  const env = {
    ...process.env,
    DATABASE_URL: `postgres://postgres@/postgres?host=${encodeURIComponent(instance.data)}`,
  }
  const worker = spawn('bin/worker', [], { env })
  let told = ''
  worker.stderr.on('data', (text: Buffer) => (told += text))
  await until(() => told.includes('Waiting for the database'), 'it says that it waits', 30)
  expect(worker.exitCode).toBeNull()
  worker.kill('SIGTERM')
  await until(() => worker.exitCode === 0, 'it ends when asked')
})

test('the database listens on no network and lets nobody in but who runs it', async () => {
  const folder = join(instance.data, 'postgres')
  expect(readFileSync(join(folder, 'pg_hba.conf'), 'utf8')).toBe('local all all peer map=grist\n')
  expect(statSync(folder).mode & 0o077).toBe(0)
  const pid = instance.pid('database')
  // Sockets of the process and its children in /proc/net/tcp would carry their inode; there is none that listens.
  const inodes = readdirSync(`/proc/${pid}/fd`).flatMap((fd) => {
    const link = readlinkSync(`/proc/${pid}/fd/${fd}`)
    return /^socket:\[(\d+)\]/.exec(link)?.[1] ?? []
  })
  const listening = ['tcp', 'tcp6'].flatMap((kind) =>
    readFileSync(`/proc/net/${kind}`, 'utf8')
      .split('\n')
      .map((line) => line.trim().split(/\s+/)[9])
      .filter((inode) => inode !== undefined && inodes.includes(inode)),
  )
  expect(listening).toEqual([])
  if (process.getuid!() !== 0) return
  // Another user of this machine: the folder is closed, and the kernel tells who asks.
  const ask = ['-h', folder, '-U', 'postgres', '-c', 'select 1']
  expect(spawnSync('psql', ask, { uid: 65534, gid: 65534 }).status).not.toBe(0)
})

test('a second bin/start on the same data says so and touches nothing', async () => {
  const before = (['database', 'server', 'worker'] as const).map((one) => instance.pid(one))
  const second = spawnSync('bin/start', ['--data', instance.data, '--port', '4399'], { encoding: 'utf8' })
  expect(second.status).toBe(1)
  expect(second.stderr).toContain(
    `run on these data already (process ${instance.main!.pid}`.replace('run on', 'runs on'),
  )
  expect((['database', 'server', 'worker'] as const).map((one) => instance.pid(one))).toEqual(before)
  expect(await instance.answers()).toBe(true)
})

test('ending in order under load and in mid-bake takes at most 5 s and loses nothing that was acknowledged', async () => {
  const nodes = {
    n: { type: 'noise', params: { octaves: 8, cells: [16, 16] } },
    o: { type: 'height-to-occlusion', inputs: { height: 'n.grey' } },
  }
  const layer = {
    kind: 'layer',
    id: 'heavy',
    name: 'Heavy',
    amount: 1,
    mask: [],
    cells: {
      height: { source: { node: 'n.grey' }, blend: 'normal', amount: 1, encoding: 'srgb' },
      roughness: { source: { node: 'o.occlusion' }, blend: 'normal', amount: 1, encoding: 'srgb' },
    },
  }
  for (const [id, node] of Object.entries(nodes))
    expect((await save(edit('Node', ['nodes', id], node))).status).toBe(200)
  expect((await save(edit('Layer', ['layers', 1], layer))).status).toBe(200)
  await bake(2048)
  await until(async () => /"running"/.test(await jobs()), 'the bake runs')
  let acknowledged = await headOf()
  let going = true
  const load = (async () => {
    for (let i = 1; going; i++) {
      const answer = await save(edit('Seed', ['seed'], i, i === 1 ? 99 : i - 1)).catch(() => null)
      // An answer that broke off half-way acknowledges nothing.
      const saved = answer?.status === 200 ? ((await answer.json().catch(() => null)) as { head: number } | null) : null
      acknowledged = saved?.head ?? acknowledged
    }
  })()
  await pause(800)
  const pids = (['database', 'server', 'worker'] as const).map((one) => instance.pid(one))
  const seconds = await instance.end()
  going = false
  await load
  // 4.5 s by what each is given; a busy machine may take longer to start the killing itself.
  expect(seconds).toBeLessThan(10)
  expect(pids.filter(isAlive)).toEqual([])
  await instance.start()
  expect(await headOf()).toBeGreaterThanOrEqual(acknowledged)
  // The bake was handed back in order and begins again.
  await until(async () => /begins anew/.test(await jobs()) && /"running"/.test(await jobs()), 'the bake runs again', 40)
})

test('killed with -9, bin/start takes everything along that it started; the next one begins on the same data', async () => {
  const pids = (['database', 'server', 'worker'] as const).map((one) => instance.pid(one))
  const head = await headOf()
  instance.main!.kill('SIGKILL')
  await until(() => !pids.some(isAlive), 'its processes have ended', 15)
  await instance.start()
  expect(await headOf()).toBe(head)
})

test('a stale postmaster.pid whose number another program has now: that program is left alone', async () => {
  await instance.end()
  const innocent = spawn('sleep', ['600'])
  const file = join(instance.data, 'postgres/postmaster.pid')
  writeFileSync(file, `${innocent.pid}\n${join(instance.data, 'postgres')}\n0\n5432\n`)
  try {
    await instance.start()
    expect(readFileSync(file, 'utf8').split('\n')[0]).toBe(String(instance.pid('database')))
    await instance.end()
    expect(isAlive(innocent.pid!)).toBe(true)
    expect(existsSync(file)).toBe(false)
  } finally {
    innocent.kill()
    rmSync(file, { force: true })
  }
})

test('wrong options of bin/start get a sentence', () => {
  const asked = (...options: string[]) => {
    const { status, stderr } = spawnSync('bin/start', options, { encoding: 'utf8' })
    return `${status} ${stderr.split('\n')[0]}`
  }
  expect(asked('--port', '99999')).toBe('2 --port needs a whole number from 1 to 65535.')
  expect(asked('--port')).toBe('2 --port needs a value.')
  expect(asked('--colour', 'red')).toBe('2 There is no option --colour.')
  expect(asked('--data', 'package.json')).toMatch(/^2 --data needs a folder/)
  expect(asked('--host', '0.0.0.0')).toMatch(/^2 0\.0\.0\.0 can be reached from other machines/)
  expect(asked('--host', '203.0.113.7', '--insecure', '--data', instance.data)).toBe(
    '1 This machine has no address 203.0.113.7.',
  )
})
