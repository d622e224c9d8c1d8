/** Measures the server with its database, and writes bench/SERVER.md: bytes in and out, saves, the queue. */
import { execFileSync, spawn } from 'node:child_process'
import { createHash, randomBytes } from 'node:crypto'
import { chmodSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { memoryWriter } from '#core/texture/bytes/byte-writer'
import { startPng } from '#core/texture/formats/png'
import type { MaterialDocument } from '#core/document/document'
import { packings } from '#core/texture/packings/packings.generated'
import { closeDatabase, database } from '#app/server/database/database.server'
import { addDocument, emptyMaterial } from '#app/server/projects/materials.server'
import { createProject } from '#app/server/projects/projects.server'
import { closeQueue } from '#app/server/runs/queue.server'
import { enqueue, findRun } from '#app/server/runs/runs.server'
import { editOf } from '#core/document/patches'

const PORT = 4390
const ADDRESS = `http://127.0.0.1:${PORT}`
const folder = mkdtempSync(join(tmpdir(), 'bench-server-'))
// The database's user walks down to its folder in here.
chmodSync(folder, 0o711)
process.env.DATABASE_URL = execFileSync('bin/lib/cluster', ['start', join(folder, 'postgres')], {
  encoding: 'utf8',
}).trim()
const env = { ...process.env, PORT: String(PORT), HOST: '127.0.0.1', NODE_ENV: 'production' }
execFileSync('bin/lib/build', ['.'])
execFileSync('node', ['--import', 'tsx', 'db/prepare.ts', '--no-demo'], { env })
const server = spawn('node', ['--import', 'tsx', 'server.ts'], { env, stdio: ['ignore', 'pipe', 'inherit'] })
const worker = spawn('node', ['--import', 'tsx', 'worker.ts'], { env, stdio: 'inherit' })
await new Promise((resolve) => server.stdout.once('data', resolve))

const lines: string[] = [
  '# Figures of the server',
  '',
  `Written by \`npm run bench:server\` on ${new Date().toISOString().slice(0, 10)}. Server, database, worker and clients share this machine’s two cores; compare ratios.`,
  '',
]
const say = (line: string): void => {
  lines.push(line)
  console.log(line)
}
/** Largest resident memory of a process so far, in MB. */
const resident = (pid: number): number =>
  Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024
const timed = async <T>(work: () => Promise<T>): Promise<[T, number]> => {
  const started = performance.now()
  const result = await work()
  return [result, (performance.now() - started) / 1000]
}

async function bytes(): Promise<void> {
  const [width, height] = [4096, 2900]
  const writer = memoryWriter()
  const png = startPng({ width, height, channels: 3, bits: 16, srgb: false }, writer)
  for (let y = 0; y < height; y++) png.rows(new Uint16Array(randomBytes(width * 6).buffer.slice(0, width * 6)))
  png.end()
  const file = writer.bytes()
  const sha256 = createHash('sha256').update(file).digest('hex')
  const before = resident(server.pid!)
  const send = (name: string) =>
    fetch(`${ADDRESS}/assets?name=${name}`, {
      method: 'POST',
      headers: { 'X-Content-SHA256': sha256 },
      body: Buffer.from(file),
    })
  const [first, whole] = await timed(() => send('noise.png'))
  if (!first.ok) throw new Error(await first.text())
  const afterImport = resident(server.pid!)
  const [, known] = await timed(() => send('noise.png'))
  const [raster, down] = await timed(async () =>
    Buffer.from(await (await fetch(`${ADDRESS}/assets/${sha256}/raster`)).arrayBuffer()),
  )
  const mb = file.length / 1e6
  say('## Bytes in and out')
  say('')
  say('| what | MB | seconds | MB/s |')
  say('| --- | ---: | ---: | ---: |')
  say(
    `| an image in: streamed, hashed, decoded, its texels stored | ${mb.toFixed(0)} | ${whole.toFixed(1)} | ${(mb / whole).toFixed(0)} |`,
  )
  say(
    `| the same again: streamed and hashed only | ${mb.toFixed(0)} | ${known.toFixed(1)} | ${(mb / known).toFixed(0)} |`,
  )
  say(
    `| its texels out | ${(raster.length / 1e6).toFixed(0)} | ${down.toFixed(1)} | ${(raster.length / 1e6 / down).toFixed(0)} |`,
  )
  say('')
  say(
    `The server’s resident memory was ${before.toFixed(0)} MB before and ${afterImport.toFixed(0)} MB at most while it decoded an image of ${width} × ${height} texels (as floats ${((width * height * 12) / 1e6).toFixed(0)} MB).`,
  )
  say('')
}

/** Waits until the worker has made the pictures that new documents ask for. */
async function quiet(): Promise<void> {
  while ((await database()('runs').whereIn('state', ['queued', 'running'])).length > 0)
    await new Promise((resolve) => setTimeout(resolve, 500))
}

/** Saves of so many editors at once, each in a document of their own, one after the other. */
async function savesOf(project: string, editors: number, each: number): Promise<string> {
  const took: number[] = []
  const ids = await Promise.all(Array.from({ length: editors }, () => addDocument(project, emptyMaterial('Bench'))))
  await quiet()
  const [, seconds] = await timed(() =>
    Promise.all(
      ids.map(async (id) => {
        let document: MaterialDocument = emptyMaterial('Bench')
        for (let i = 0; i < each; i++) {
          const edit = editOf(document, 'Seed', (draft) => void (draft.seed = i + 1))!
          document = { ...document, seed: i + 1 }
          const [response, one] = await timed(() =>
            fetch(`${ADDRESS}/documents/${id}/edits`, {
              method: 'POST',
              headers: { 'Content-Type': 'application/json' },
              body: JSON.stringify({ base: i, edits: [edit] }),
            }),
          )
          if (!response.ok) throw new Error(await response.text())
          took.push(one * 1000)
        }
      }),
    ),
  )
  took.sort((a, b) => a - b)
  return `| ${editors} | ${((editors * each) / seconds).toFixed(0)} | ${took[took.length >> 1]!.toFixed(0)} | ${took[Math.floor(took.length * 0.95)]!.toFixed(0)} |`
}

async function saves(): Promise<void> {
  const project = await createProject('Bench')
  // The first round finds the server cold.
  await savesOf(project, 5, 10)
  say('## Saves')
  say('')
  say('Over HTTP, every save checked and in a transaction of its own.')
  say('')
  say('| editors at once | saves a second | half within, ms | 95 in 100 within, ms |')
  say('| ---: | ---: | ---: | ---: |')
  for (const editors of [1, 20, 50]) say(await savesOf(project, editors, 40))
  say('')
}

async function queueDelay(): Promise<void> {
  const id = await addDocument(await createProject('Queue'), emptyMaterial('Queue'))
  const packing = packings.find(({ name }) => name === 'separate-maps')!
  const delays: number[] = []
  for (let i = 0; i < 10; i++) {
    const run = await enqueue('bake', id, 0, { packing, width: 16, dither: false })
    let found = await findRun(run)
    while (!found?.endedAt) {
      await new Promise((resolve) => setTimeout(resolve, 20))
      found = await findRun(run)
    }
    delays.push(Date.parse(found.startedAt!) - Date.parse(found.createdAt))
  }
  delays.sort((a, b) => a - b)
  say('## The queue')
  say('')
  say(
    `From asking for a bake to a worker beginning it: half within ${delays[5]} ms, the slowest of ten ${delays[9]} ms (workers look twice a second).`,
  )
}

try {
  // Pictures asked for by new documents go first.
  await bytes()
  await saves()
  await quiet()
  await queueDelay()
  writeFileSync('bench/SERVER.md', `${lines.join('\n').trimEnd()}\n`)
} finally {
  server.kill()
  worker.kill()
  await closeQueue()
  await closeDatabase()
  execFileSync('bin/lib/cluster', ['stop', join(folder, 'postgres')])
  rmSync(folder, { recursive: true, force: true })
}
