/** Whole bakes by the command line, its start, and the coding of files alone. */
import { spawn, spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { channelOutput } from '#core/document/address'
import { channelsOf } from '#core/document/channels'
import { parseDocument } from '#core/document/document'
import { materialHere } from '#core/testing/material-here'
import { codeBand } from '#core/texture/code-band'
import { depthOf, writtenFormat } from '#core/texture/format-registry'
import type { PackedFile } from '#core/texture/packing'
import { codeHost } from '#runtime/node/code-host'
import { readImage } from '#runtime/node/read-image'
import { fixed, say, table } from './report'

/** Runs the command line and watches its memory: seconds, MB at most, and what it told. */
export function watched(words: readonly string[]): Promise<{ seconds: number; resident: number; text: string }> {
  return new Promise((resolve, reject) => {
    const started = performance.now()
    const child = spawn('bin/grist', words, { stdio: ['ignore', 'pipe', 'inherit'] })
    let resident = 0
    const watch = setInterval(() => {
      try {
        resident = Math.max(
          resident,
          Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))![1]) / 1024,
        )
      } catch {
        // The process has ended.
      }
    }, 50)
    let text = ''
    child.stdout.on('data', (part: Buffer) => (text += part.toString()))
    child.on('exit', (code) => {
      clearInterval(watch)
      if (code !== 0) return reject(new Error(`${words[0]} ended with ${code}`))
      resolve({ seconds: (performance.now() - started) / 1000, resident, text })
    })
  })
}

/** Bakes in a process of its own. */
async function bakeAt(
  material: string,
  size: number,
  threads: number,
): Promise<{ seconds: number; resident: number; fields: number; files: number }> {
  const out = mkdtempSync(join(tmpdir(), 'grist-bench-'))
  const asked = ['--packing', 'separate-maps', '--size', String(size), '--out', out, '--threads', String(threads)]
  const { seconds, resident, text } = await watched(['bake', `demo/${material}.json`, ...asked, '--json'])
  rmSync(out, { recursive: true })
  const { record, report } = JSON.parse(text) as {
    record: { files: { bytes: number }[] }
    report: { peakBytes: number }
  }
  const files = record.files.reduce((sum, file) => sum + file.bytes, 0) / 1048576
  return { seconds, resident, fields: report.peakBytes / 1048576, files }
}

const MATERIALS = ['quay-setts', 'towpath-shell-grit', 'depth-board-enamel', 'limewash'] as const

export async function bakes(): Promise<void> {
  const rows: (string | number)[][] = []
  const seconds = new Map<string, number>()
  const asked = MATERIALS.flatMap((material, i) => [
    ...(i === 0 ? [2048, 4096].map((size) => ({ material, size, threads: 1 })) : []),
    ...[1024, 2048, 4096, ...(i === 0 ? [8192] : [])].map((size) => ({ material, size, threads: 2 })),
  ])
  for (const { material, size, threads } of asked) {
    const { seconds: taken, resident, fields, files } = await bakeAt(material, size, threads)
    seconds.set(`${material} ${size} ${threads}`, taken)
    rows.push([
      material,
      `${size} × ${size}`,
      threads,
      fixed(taken),
      fixed((8 * size * size) / 1e6 / taken),
      fixed(resident),
      fixed(fields),
      fixed(files),
    ])
  }
  say('## The demo baked to eight 16-bit maps each (bin/grist bake, start and writing included)')
  say()
  table(
    [
      'material',
      'size',
      'threads',
      'seconds',
      'Mpixel/s of maps',
      'resident MB at most',
      'of it fields MB',
      'files MB',
    ],
    rows,
  )
  const of = (name: string): number => seconds.get(`quay-setts ${name}`)!
  say(
    `Quay setts: two threads over one ${fixed(of('2048 1') / of('2048 2'))} × at 2048², ${fixed(of('4096 1') / of('4096 2'))} × at 4096²; ` +
      `8192² takes ${fixed(of('8192 2') / of('1024 2'))} times 1024².`,
  )
  say()
}

/** Processor time of the command line for next to nothing. */
export function start(): void {
  const folder = mkdtempSync(join(tmpdir(), 'grist-bench-'))
  const file = join(folder, 'constant.json')
  const document = JSON.parse(readFileSync('demo/limewash.json', 'utf8')) as object
  const layers = [{ kind: 'layer', id: 'a', name: 'A', cells: { roughness: { source: { value: 0.5 } } } }]
  writeFileSync(file, JSON.stringify({ ...document, nodes: {}, layers, dials: [], channels: {} }))
  const seconds = Array.from({ length: 7 }, () => {
    const { stderr, status } = spawnSync(
      'bash',
      [
        '-c',
        `TIMEFORMAT='%U %S'; time bin/grist eval ${file} --output roughness --size 16 --out ${join(folder, 'x.png')} >&2`,
      ],
      { encoding: 'utf8' },
    )
    if (status !== 0) throw new Error(stderr)
    const [user, system] = stderr.trim().split('\n').at(-1)!.split(' ').map(Number) as [number, number]
    return user + system
  }).sort((a, b) => a - b)
  rmSync(folder, { recursive: true })
  say('## Start')
  say()
  say(`\`bin/grist eval\` of a constant at 16²: ${fixed(seconds[3]!)} s of processor time, the median of seven.`)
  say()
}

/** Texels of Quay setts at 1024², packed, rounded, filtered and compressed on one thread. */
export async function files(): Promise<void> {
  const size = 1024
  const document = parseDocument(JSON.parse(readFileSync('demo/quay-setts.json', 'utf8')))
  const channels = new Map(channelsOf(document).map((channel) => [channel.id, channel]))
  const images = { load: (path: string) => readImage(`demo/${path}`) }
  const outputs = ['colour', 'normal', 'height', 'roughness'].map(channelOutput)
  const { fields } = await materialHere(document, { images }).evaluate({ outputs, width: size })
  const rows: (string | number)[][] = []
  for (const [channel, count] of [
    ['colour', 3],
    ['normal', 3],
    ['height', 1],
    ['roughness', 1],
  ] as const)
    for (const [name, bits] of [
      ['png', 16],
      ['png', 8],
      ['exr', 16],
      ['tiff', 32],
    ] as const) {
      const format = writtenFormat(name)
      const depth = depthOf(format, bits)!
      const transfer = channel === 'colour' && !depth.float ? 'srgb' : 'raw'
      const slots = Array.from({ length: count }, (_, component) => ({ channel, component, invert: false }))
      const file = { map: channel, format: name, bits, transfer, slots } as unknown as PackedFile
      const shape = { width: size, height: size, channels: count, depth, srgb: transfer === 'srgb' }
      const plan = { file, shape, channels, heightMetres: 0.045, dither: false }
      const strip = 64
      const run = (): number => {
        let bytes = 0
        for (let top = 0; top < size; top += strip)
          bytes += codeBand({ plan, fields, top, rows: strip, above: null }, codeHost).coded.parts.reduce(
            (sum, part) => sum + part.length,
            0,
          )
        return bytes
      }
      const times = Array.from({ length: 7 }, () => {
        const before = process.cpuUsage()
        run()
        const { user, system } = process.cpuUsage(before)
        return (user + system) / 1e6
      }).sort((a, b) => a - b)
      const raw = (size * size * count * bits) / 8 / 1e6
      rows.push([`${channel}, ${name} ${bits}`, fixed(raw / times[3]!), fixed(run() / 1e6 / raw)])
    }
  say('## Files alone: packed, rounded, hashed, filtered and compressed, processor time on one thread')
  say()
  table(['file', 'MB/s of raw texels', 'of their size'], rows)
}
