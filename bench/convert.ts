/**
 * Measures converting and what is made of pictures, and writes bench/CONVERT.md: nodes beside a plain loop of the same run; files of a
 * photograph of Debian's python3-sklearn in every form; sets of maps converted by the command line. Figures are for this machine.
 */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { cpus } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { encodeSrgb } from '#core/colour/srgb'
import { parseDocument } from '#core/document/document'
import { Pyramids } from '#core/engine/pyramids'
import { openMaterial } from '#core/material/session'
import { registry } from '#core/nodes/registry.generated'
import type { FilePlan } from '#core/texture/packing'
import { parsePacking } from '#core/texture/packing'
import { writtenFormats } from '#core/texture/format-registry'
import { deliverToFolder } from '#runtime/node/delivery-folder'
import { readImage } from '#runtime/node/read-image'
import { openThreads } from '#runtime/node/threads'
import { watched } from './bakes'
import { fixed, lines, say, table } from './report'
import { N, plainLoop, timeOf } from './step-times'

const PICTURE = '/usr/lib/python3/dist-packages/sklearn/datasets/images/flower.jpg'
const [WIDTH, HEIGHT] = [640, 424]
/** Nodes that convert, and those that make something of pictures and meshes. */
const NODES = [
  ...['metal-to-specular', 'specular-to-metal', 'specular-tint', 'fold-highlights', 'colour-mask'],
  ...['tangent-to-object', 'object-to-tangent', 'image-to-normal', 'normal-to-height'],
  ...['close-edges', 'curvature', 'bleed'],
]

say('# Converting')
say()
say(`Made by \`npm run bench:convert\` on ${cpus().length} × ${cpus()[0]!.model.trim()}, Node ${process.version}.`)
say()
await nodes()
await files()
await sets()
writeFileSync('bench/CONVERT.md', `${lines.join('\n').trim()}\n`)

async function nodes(): Promise<void> {
  const loop = plainLoop()
  say(`## Nodes at ${N} × ${N}, one thread, beside a loop out[i] = fround(a[i] * b[i])`)
  say()
  const rows: (string | number)[][] = []
  for (const type of NODES) {
    const { ms, plain } = await timeOf(registry.get(type)!)
    rows.push([type, fixed((N * N) / 1000 / ms), fixed(ms / loop), plain > 1.5 * ms ? fixed(plain / ms) : ''])
  }
  table(['node', 'Mpixel/s', 'times the plain loop', 'times as fast as by definition alone'], rows)
}

/** A photograph written whole in every form: processor time of all threads, over that of evaluating it alone. */
async function files(): Promise<void> {
  const source = new Uint8Array(
    await sharp(readFileSync(PICTURE)).extract({ left: 0, top: 0, width: WIDTH, height: HEIGHT }).raw().toBuffer(),
  )
  const values = Float32Array.from(source, (v) => v / 255)
  const image = { width: WIDTH, height: HEIGHT, channels: 3, bits: 8, float: false, values } as const
  const document = parseDocument({
    ...{ format: 'amber-grist/material', version: 2, name: 'picture' },
    domain: { kind: 'tile', metres: [1, HEIGHT / WIDTH] },
    nodes: { p: { type: 'image', params: { image: 'p.png' } } },
    layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { colour: { source: { node: 'p.colour' } } } }],
  })
  const executor = openThreads(1)
  const pyramids = new Pyramids({ load: () => Promise.resolve(image) }, executor.allocate)
  const written = async (plan: Pick<FilePlan, 'format' | 'bits' | 'block' | 'quality' | 'mips'>) => {
    const out = mkdtempSync(join(tmpdir(), 'grist-bench-'))
    const float = plan.bits === 32 || plan.format === 'exr'
    const slots = [0, 1, 2].map((component) => ({ channel: 'colour', component }))
    const packing = parsePacking({
      ...{ format: 'amber-grist/packing', version: 1, name: 'one', title: 'One', summary: '', pattern: 'p' },
      files: [
        {
          map: 'p',
          transfer: float ? 'raw' : 'srgb',
          slots: plan.block === 'bc4' ? slots.slice(0, 1) : plan.block === 'bc3' ? [...slots, { constant: 1 }] : slots,
          ...plan,
        },
      ],
    })
    const work = () =>
      deliverToFolder(
        openMaterial(document, registry, { executor, pyramids }),
        {
          packing,
          width: WIDTH,
          dither: false,
          application: 'bench',
          assets: {},
          coders: executor,
          budgetBytes: 1e9,
          isCancelled: () => false,
        },
        join(out, 'made'),
        { images: [], replace: true },
      )
    const seconds: number[] = []
    for (let i = 0; i < 4; i++) {
      const began = process.cpuUsage()
      await work()
      const { user, system } = process.cpuUsage(began)
      seconds.push((user + system) / 1e6)
    }
    const [file] = (await work()).names
    const path = join(out, 'made', file!)
    const bytes = readFileSync(path).length
    const read = await readImage(path)
    let squares = 0
    const held = plan.block === 'bc4' ? [0] : plan.block === 'bc5' ? [0, 1] : [0, 1, 2]
    for (let i = 0; i < WIDTH * HEIGHT; i++)
      for (const c of held) {
        const v = read.values[i * read.channels + c]!
        squares += ((read.float ? encodeSrgb(v) : v) - values[i * 3 + c]!) ** 2
      }
    rmSync(out, { recursive: true })
    // The first run compiles.
    const median = seconds.slice(1).sort((a, b) => a - b)[1]!
    return { median, bytes, dB: 10 * Math.log10((WIDTH * HEIGHT * held.length) / squares) }
  }
  const forms = writtenFormats.flatMap(({ name, write }) => [
    ...write.depths.map(({ bits }) => ({ format: name, bits }) as const),
    ...(write.holdsBlocks
      ? (['bc1', 'bc3', 'bc4', 'bc5', 'bc7'] as const).flatMap((block) =>
          (['fast', 'normal', 'best'] as const).map((quality) => ({ format: name, bits: 8, block, quality }) as const),
        )
      : []),
  ])
  const rows: (string | number)[][] = []
  for (const form of forms) {
    const { median, bytes, dB } = await written(form as never)
    const { block = '', quality = '' } = form as { block?: string; quality?: string }
    rows.push([
      [form.format.toUpperCase(), block.toUpperCase() || `${form.bits} bits`, quality].join(' ').trim(),
      fixed((WIDTH * HEIGHT) / 1e6 / median),
      dB > 100 ? 'exact' : dB.toFixed(1),
      fixed(bytes / 1024),
    ])
  }
  await executor.close()
  say(`## Files: a photograph of ${WIDTH} × ${HEIGHT}, evaluated, packed and written on one thread beside this one`)
  say()
  table(['file', 'Mpixel/s', 'dB', 'KB'], rows)
}

/** Limewash as separate maps of 4096², and what \`grist convert\` makes of them. */
async function sets(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'grist-bench-'))
  const at = (name: string): string => join(folder, name)
  const rows: (string | number)[][] = []
  await watched([
    'bake',
    'demo/limewash.json',
    '--packing',
    'separate-maps',
    '--size',
    '4096',
    '--out',
    at('a'),
    '--quiet',
  ])
  rmSync(at('a/record.json'))
  for (const [from, out, words, name] of [
    ['a', 'b', ['--to', 'spec-gloss'], 'to diffuse, specular and gloss'],
    ['b', 'c', [], 'back to base colour and metallic'],
    ['a', 'd', ['--packing', 'specular-strength'], 'to specular tint and strength'],
    ['a', 'e', ['--packing', 'blocks-y-up'], 'to blocks with mips'],
  ] as const) {
    const { seconds, resident } = await watched(['convert', at(from), ...words, '--out', at(out), '--quiet'])
    rmSync(at(`${out}/record.json`), { force: true })
    rows.push([name, fixed(seconds), fixed(resident)])
  }
  rmSync(folder, { recursive: true })
  say('## A set of eight maps of 4096², 16 bits, by `grist convert` on all threads')
  say()
  table(['what', 'seconds', 'MB at most'], rows)
}
