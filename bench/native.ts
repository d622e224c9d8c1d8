import { execFileSync, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { localExecutor } from '#core/engine/local-executor'
import type { Field } from '#core/field/field'
import { createField } from '#core/field/field'
import { blendFields } from '#core/kernels/blend-fields'
import { imageKey, makePyramid } from '#core/field/pyramid'
import { blurPlane } from '#core/kernels/blur'
import { cellDistances } from '#core/kernels/cells'
import { contourDistances } from '#core/kernels/contour-distance'
import { horizonOcclusion } from '#core/kernels/horizon'
import { fractalNoise } from '#core/kernels/noise'
import { allRows } from '#core/kernels/rows'
import { withoutSimd } from '#core/kernels/simd'
import { srgbField } from '#core/kernels/srgb'
import { warpFields } from '#core/kernels/warp-fields'
import imageNode from '#core/nodes/make/image'
import { registry } from '#core/nodes/registry.generated'
import { randomNumbers } from '#core/testing/random-values'

/** Kernels by their twins and by their definitions against the same work in C (bench/native/kernels.c), medians of one run. */
export interface NativeRatio {
  readonly kernel: string
  /** Nanoseconds of processor time a texel. */
  readonly native: number
  readonly twin: number
  readonly definition: number
}

const SIZE = 1024
const RUNS = 9

const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1]!

/** Processor time of this process; nothing else runs in it meanwhile. */
function cost(work: () => void): number {
  const before = process.cpuUsage()
  work()
  const { user, system } = process.cpuUsage(before)
  return ((user + system) * 1000) / (SIZE * SIZE)
}

export async function nativeRatios(): Promise<NativeRatio[]> {
  const folder = mkdtempSync(join(tmpdir(), 'native-'))
  const program = join(folder, 'kernels')
  execFileSync('gcc', ['-O3', '-march=native', '-o', program, 'bench/native/kernels.c', '-lm'])
  const child = spawn(program, [String(SIZE)], { stdio: ['pipe', 'pipe', 'inherit'] })
  const answers = createInterface({ input: child.stdout })[Symbol.asyncIterator]()
  const native = async (name: string): Promise<number> => {
    child.stdin.write(`${name}\n`)
    return Number((await answers.next()).value)
  }
  try {
    const ratios: NativeRatio[] = []
    for (const [kernel, work] of Object.entries(works())) {
      const figures: { native: number[]; twin: number[]; definition: number[] } = {
        native: [],
        twin: [],
        definition: [],
      }
      work()
      // One after the other, again and again: what else the machine does falls on all alike.
      for (let run = 0; run < RUNS; run++) {
        figures.native.push(await native(kernel))
        figures.twin.push(cost(work))
        if (run < 3) figures.definition.push(cost(() => withoutSimd(work)))
      }
      ratios.push({
        kernel,
        native: median(figures.native),
        twin: median(figures.twin),
        definition: median(figures.definition),
      })
    }
    return ratios
  } finally {
    child.stdin.end()
    rmSync(folder, { recursive: true })
  }
}

/** The same work as kernels.c does, by its names there. */
function works(): Record<string, () => void> {
  const { allocate } = localExecutor(registry)
  const field = (seed: number): Field => {
    const one = createField('grey', SIZE, SIZE, { top: 0, rows: SIZE }, allocate)
    const random = randomNumbers(seed)
    for (let i = 0; i < SIZE * SIZE; i++) one.planes[0]![i] = random()
    return one
  }
  const [a, b, mask, out] = [field(1), field(2), field(3), field(4)]
  const rows = allRows(SIZE)
  const vector = createField('vector', SIZE, SIZE, { top: 0, rows: SIZE }, allocate)
  vector.planes[0]!.set(b.planes[0]!)
  vector.planes[1]!.set(mask.planes[0]!)
  const warp = {
    along: 'vector',
    strength: 20 / SIZE,
    angle: 0,
    steepness: 1,
    directions: 1,
    combine: 'average',
  } as const
  const smooth = createField('grey', SIZE, SIZE, { top: 0, rows: SIZE }, allocate)
  const turn = (2 * Math.PI) / SIZE
  for (let i = 0; i < SIZE * SIZE; i++)
    smooth.planes[0]![i] = 0.5 + 0.4 * Math.sin(5 * turn * (i % SIZE)) * Math.cos(3 * turn * Math.floor(i / SIZE))
  const colour = createField('colour', SIZE, SIZE, { top: 0, rows: SIZE }, allocate)
  const params = Object.fromEntries(
    Object.entries(imageNode.params).map(([name, parameter]) => [name, parameter.default]),
  ) as Parameters<typeof imageNode.evaluate>[1]
  const request = { image: 'picture', encoded: true, premultiplied: false }
  const picture = makePyramid(
    { width: 512, height: 512, channels: 4, values: a.planes[0]!, bits: 8, float: false },
    request,
    allocate,
  )
  const images = new Map([[imageKey(request), picture]])
  const startOf = (y: number): number => y * SIZE
  const size = { width: SIZE, height: SIZE }
  const cells = { cells: [8, 8], jitter: 1, metric: 'euclid' } as const
  const noise = {
    cells: [8, 8],
    octaves: 4,
    lacunarity: 2,
    gain: 0.5,
    style: 'plain',
    depth: 0,
    depthPeriod: 8,
    even: true,
  } as const
  const inputs = { source: a, driver: null, vector, strengthBy: null, angleBy: null }
  return {
    'soft-light': () => blendFields(a, b, mask, out, rows, 'soft-light', 1),
    gaussian: () =>
      blurPlane(a, a.planes[0]!, { kind: 'gaussian', sigma: 6 }, rows, (y, row) => out.planes[0]!.set(row, y * SIZE)),
    warp: () => warpFields(inputs, warp, out, rows),
    occlusion: () => horizonOcclusion(a, out, rows, 20, 16, 1),
    srgb: () => srgbField(a, out, rows, 'encode'),
    noise: () => fractalNoise(noise, 1, size, rows, out.planes[0]!, startOf),
    cells: () => cellDistances(cells, 1, size, rows, { nearest: out.planes[0]!, second: mask.planes[0]! }, startOf),
    boxes: () =>
      blurPlane(a, a.planes[0]!, { kind: 'box', radius: 24 }, rows, (y, row) => out.planes[0]!.set(row, y * SIZE)),
    image: () =>
      imageNode.evaluate(
        {},
        { ...params, image: request.image },
        { colour, stored: undefined, grey: undefined, alpha: undefined },
        {
          ...size,
          tileTexels: SIZE,
          rows,
          images,
          documentSeed: 1,
          metres: [1, 1],
          heightMetres: 0.1,
          part: null,
          prepared: undefined,
        },
      ),
    distance: () =>
      contourDistances(smooth, 0.5, [{ side: 'outside', most: Infinity }], { rows }, (_side, y, distances) =>
        out.planes[0]!.set(distances, y * SIZE),
      ),
  }
}
