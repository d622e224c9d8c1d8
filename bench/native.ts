import { execFileSync, spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import { localExecutor } from '#core/engine/local-executor'
import type { Field } from '#core/field/field'
import { createField } from '#core/field/field'
import { blendFields } from '#core/kernels/blend-fields'
import { blurPlane } from '#core/kernels/blur'
import { horizonOcclusion } from '#core/kernels/horizon'
import { allRows } from '#core/kernels/rows'
import { withoutSimd } from '#core/kernels/simd'
import { srgbField } from '#core/kernels/srgb'
import { warpFields } from '#core/kernels/warp-fields'
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
  const inputs = { source: a, driver: null, vector, strengthBy: null, angleBy: null }
  return {
    'soft-light': () => blendFields(a, b, mask, out, rows, 'soft-light', 1),
    gaussian: () =>
      blurPlane(a, a.planes[0]!, { kind: 'gaussian', sigma: 6 }, rows, (y, row) => out.planes[0]!.set(row, y * SIZE)),
    warp: () => warpFields(inputs, warp, out, rows),
    occlusion: () => horizonOcclusion(a, out, rows, 20, 16, 1),
    srgb: () => srgbField(a, out, rows, 'encode'),
  }
}
