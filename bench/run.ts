import { channelOutput } from '#core/document/address'
import { materialHere } from '#core/testing/material-here'
/** Measures and writes bench/RESULTS.md. Figures are for this machine; ratios against references of the same run carry over. */
import { Buffer } from 'node:buffer'
import { execFileSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { cpus, totalmem } from 'node:os'
import { ImprovedNoise } from 'three/examples/jsm/math/ImprovedNoise.js'
import { FieldCache } from '#core/engine/field-cache'
import { Dropped } from '#core/engine/dropped'
import { readImage } from '#runtime/node/read-image'
import { openThreads } from '#runtime/node/threads'
import { bakes, files, start } from './bakes'
import { nativeRatios } from './native'
import { fixed, lines, say, table } from './report'
import { N, best, here, plainLoop, timeOf, timed } from './step-times'
import { localExecutor } from '#core/engine/local-executor'
import { GristError } from '#core/errors'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { registry } from '#core/nodes/registry.generated'

const MEGAPIXELS = (N * N) / 1e6
async function nodes(): Promise<void> {
  const loop = plainLoop()
  const times = new Map<string, { ms: number; plain: number }>()
  for (const node of registry.values()) times.set(node.type, await timeOf(node))
  say(`## Nodes at ${N} × ${N}, one thread`)
  say()
  say('Each node in its own example. The reference is a plain loop `out[i] = fround(a[i] * b[i])` over as many texels.')
  say()
  const rows = [...times]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([type, { ms, plain }]) => {
      const uniform = registry.get(type)!.uniform
      return uniform
        ? [type, 'one row', '', '', '']
        : [
            type,
            fixed(MEGAPIXELS / (ms / 1000)),
            fixed((ms * 1e6) / (N * N)),
            fixed(ms / loop),
            plain > 1.5 * ms ? fixed(plain / ms) : '',
          ]
    })
  table(
    ['node', 'Mpixel/s', 'ns a texel', 'times the plain loop', 'times as fast as by definition alone'],
    [...rows, ['(plain loop)', fixed(MEGAPIXELS / (loop / 1000)), fixed((loop * 1e6) / (N * N)), '1', '']],
  )
}

/** A step of one node with given parameters on a noise field, timed. */
async function step(type: string, params: Record<string, unknown>): Promise<number> {
  const document = parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name: 'bench',
    domain: { kind: 'tile', metres: [1, 1] },
    nodes: {
      n: { type: 'noise', params: { cells: [8, 8], octaves: 4 } },
      s: {
        type,
        params,
        inputs: Object.fromEntries(
          Object.entries(registry.get(type)!.inputs)
            .filter(([, port]) => port.whenUnconnected === undefined)
            .map(([name]) => [name, 'n.grey']),
        ),
      },
    },
  })
  const port = Object.keys(registry.get(type)!.outputs)[0]!
  const { executor, works } = timed()
  await materialHere(document, { executor }).evaluate({ outputs: [{ kind: 'port', node: 's', port }], width: N })
  const own = works.filter((work) => work.type === type).at(-1)!
  return best(() => void localExecutor(registry).run(own.pass, here))
}

async function references(): Promise<void> {
  const rows: (string | number)[][] = []
  const octaves = 4
  const noise = await step('noise', { cells: [8, 8], octaves })
  const theirs = new ImprovedNoise()
  const plane = new Float32Array(N * N)
  const improved = best(() => {
    for (let y = 0; y < N; y++)
      for (let x = 0; x < N; x++) {
        let sum = 0
        for (let o = 0, f = 8, w = 1; o < octaves; o++, f *= 2, w /= 2)
          sum += w * theirs.noise(((x + 0.5) / N) * f, ((y + 0.5) / N) * f, 0.5)
        plane[y * N + x] = sum
      }
  })
  rows.push([
    'noise, 4 octaves',
    "three's ImprovedNoise, 4 octaves",
    fixed(noise),
    fixed(improved),
    fixed(improved / noise),
  ])

  const source = new Float32Array(N * N).map((_, i) => ((i * 7919) % 255) / 255)
  for (const sigma of [4, 64]) {
    const ours = await step('blur', { radius: sigma / N })
    const scipy = Number(
      execFileSync(
        '/usr/bin/python3',
        [
          '-c',
          `import numpy as np, time, sys\nfrom scipy import ndimage\na=np.frombuffer(sys.stdin.buffer.read(),"<f4").reshape(${N},${N})\nt=[]\nfor i in range(3):\n s=time.perf_counter(); ndimage.gaussian_filter(a,${sigma},mode="wrap"); t.append(time.perf_counter()-s)\nprint(min(t)*1000)`,
        ],
        { input: Buffer.from(source.buffer), encoding: 'utf8' },
      ),
    )
    rows.push([
      `blur, σ ${sigma} texels`,
      'scipy.ndimage.gaussian_filter (C)',
      fixed(ours),
      fixed(scipy),
      fixed(scipy / ours),
    ])
  }

  const normal = await step('height-to-normal', {})
  const plainNormal = best(() => {
    for (let y = 0; y < N; y++)
      for (let x = 0; x < N; x++) {
        const u = source[y * N + ((x + 1) % N)]! - source[y * N + ((x + N - 1) % N)]!
        const v = source[((y + 1) % N) * N + x]! - source[((y + N - 1) % N) * N + x]!
        plane[y * N + x] = 1 / Math.sqrt(u * u + v * v + 1)
      }
  })
  rows.push([
    'height-to-normal (three planes)',
    'a plain loop for one plane',
    fixed(normal),
    fixed(plainNormal),
    fixed(plainNormal / normal),
  ])
  say('## Against references of the same run')
  say()
  table(['what', 'reference', 'ours, ms', 'reference, ms', 'times as fast'], rows)
}

/** From one that moves every sett to one that only tints. */
const DIALS = ['Joint width', 'Arrangement', 'Chisel marks', 'Silt level', 'Algae', 'Damp']

async function dial(): Promise<void> {
  const document = parseDocument(JSON.parse(readFileSync('demo/quay-setts.json', 'utf8')))
  const outputs = ['colour', 'height', 'roughness', 'normal', 'occlusion'].map(channelOutput)
  const rows: (string | number)[][] = []
  for (const one of document.dials) {
    if (!DIALS.includes(one.label) || typeof one.value !== 'number') continue
    const cache = new FieldCache(1 << 30)
    const evaluate = async (at: MaterialDocument) => {
      const { executor, times } = timed()
      const started = performance.now()
      const { report } = await materialHere(at, { executor, cache }).evaluate({ outputs, width: N })
      return { all: performance.now() - started, kernels: [...times.values()].reduce((a, b) => a + b, 0), report }
    }
    const whole = await evaluate(document)
    const span = (one.max ?? 1) - (one.min ?? 0)
    const value =
      one.kind === 'number'
        ? one.value + (one.value + span / 9 > (one.max ?? Infinity) ? -span / 9 : span / 9)
        : one.value + 1
    const turned = parseDocument({
      ...document,
      dials: document.dials.map((d) => (d.id === one.id ? { ...d, value } : d)),
    })
    const again = await evaluate(turned)
    rows.push([
      one.label,
      `${again.report.evaluated.length} of ${whole.report.evaluated.length}`,
      fixed(again.all),
      fixed(again.kernels),
      `${fixed((100 * (again.all - again.kernels)) / again.all)} %`,
      fixed(whole.all / again.all),
    ])
  }
  say(`## A dial of Quay setts at ${N}: five channels, one thread`)
  say()
  table(['dial', 'steps evaluated', 'ms in all', 'ms in kernels', 'the rest', 'times as fast as everything'], rows)
}

const TURNED = ['quay-setts', 'depth-board-enamel'] as const

/** Milliseconds from a dial's value that was never seen before to the fields of all channels that the stage shows. */
async function turns(): Promise<void> {
  const outputs = ['colour', 'height', 'roughness', 'normal', 'occlusion'].map(channelOutput)
  const executor = openThreads(2)
  const rows: (string | number)[][] = []
  try {
    for (const name of TURNED) {
      const document = parseDocument(JSON.parse(readFileSync(`demo/${name}.json`, 'utf8')))
      const pictures = { load: (path: string) => readImage(`demo/${path}`) }
      for (const width of [256, 512, 1024])
        for (const one of document.dials) {
          if (one.kind !== 'number' || typeof one.value !== 'number') continue
          const dropped = new Dropped(executor.free)
          const cache = new FieldCache(1 << 29, dropped.addField)
          const session = materialHere(document, { executor, cache, images: pictures })
          await session.evaluate({ outputs, width })
          const [min, max] = [one.min ?? 0, one.max ?? 1]
          const times: number[] = []
          for (let turn = 1; turn <= 9; turn++) {
            // The golden section never comes back to a value.
            const value = min + (max - min) * ((turn * 0.6180339887) % 1)
            const dials = document.dials.map((d) => (d.id === one.id ? { ...d, value } : d))
            session.update({ ...document, dials })
            const started = performance.now()
            await session.evaluate({ outputs, width })
            times.push(performance.now() - started)
            dropped.release([])
          }
          cache.clear()
          dropped.release([])
          rows.push([name, one.label, width, fixed([...times].sort((a, b) => a - b)[4]!)])
        }
    }
  } finally {
    await executor.close()
  }
  say('## A dial turned to values never seen: five channels, two threads, medians of nine')
  say()
  table(['material', 'dial', 'size', 'ms'], rows)
}

/** Milliseconds from a cancel, at moments spread over the work, to the end of the evaluation. */
async function cancels(): Promise<void> {
  const outputs = ['colour', 'height', 'roughness', 'normal', 'occlusion'].map(channelOutput)
  const executor = openThreads(2)
  const rows: (string | number)[][] = []
  try {
    for (const name of TURNED)
      for (const width of [512, 4096]) {
        const document = parseDocument(JSON.parse(readFileSync(`demo/${name}.json`, 'utf8')))
        const pictures = { load: (path: string) => readImage(`demo/${path}`) }
        const times: number[] = []
        const evaluate = async (after: number): Promise<number> => {
          // Without a cache, as a bake has it.
          const session = materialHere(document, { executor, images: pictures })
          let cancelled = Infinity
          const started = performance.now()
          const timer = setTimeout(() => (cancelled = performance.now()), after)
          try {
            const isCancelled = (): boolean => performance.now() >= cancelled
            await session.evaluate({ outputs, width, budgetBytes: 3 * 2 ** 30, isCancelled })
            return performance.now() - started
          } catch (error) {
            if (!(error instanceof GristError) || error.code !== 'cancelled') throw error
            times.push(performance.now() - cancelled)
            return performance.now() - started
          } finally {
            clearTimeout(timer)
          }
        }
        const all = await evaluate(1e9)
        const count = width > 1024 ? 6 : 24
        for (let i = 1; i <= count; i++) await evaluate(all * ((i * 0.6180339887) % 1) * 0.95)
        times.sort((a, b) => a - b)
        rows.push([name, width, times.length, fixed(times[times.length >> 1]!), fixed(times.at(-1)!)])
      }
  } finally {
    await executor.close()
  }
  say('## A cancel, at moments spread over the work: five channels, two threads, milliseconds to its end')
  say()
  table(['material', 'size', 'cancels', 'median', 'longest'], rows)
}

say('# Figures')
say()
say(
  `Written by \`npm run bench\` on ${new Date().toISOString().slice(0, 10)}: ${cpus().length} × ${cpus()[0]!.model.trim()}, ${Math.round(totalmem() / 2 ** 30)} GB, Node ${process.versions.node}.`,
)
say('Seconds are this machine’s; compare ratios.')
say()
async function native(): Promise<void> {
  say('## Kernels against the same work in C (gcc -O3 -march=native), 1024 × 1024, processor time, medians of one run')
  say()
  const ratios = await nativeRatios()
  table(
    ['kernel', 'native, ns a texel', 'twin', 'definition', 'native / twin', 'native / definition'],
    ratios.map(({ kernel, native: ns, twin, definition }) => [
      kernel,
      fixed(ns),
      fixed(twin),
      fixed(definition),
      fixed(ns / twin),
      fixed(ns / definition),
    ]),
  )
}

const PARTS = { nodes, native, references, dial, turns, cancels, start, files, bakes }
const asked = process.argv.slice(2)
for (const [name, part] of Object.entries(PARTS)) if (asked.length === 0 || asked.includes(name)) await part()
if (asked.length === 0) writeFileSync('bench/RESULTS.md', `${lines.join('\n').trimEnd()}\n`)
