import type { Patch, PatchSet } from '../field/patches'
import { createField } from '../field/field'
import { READ_BYTES, fractionOf, packRead } from '../field/reads'
import { largestDifference } from '../testing/fields'
import { randomNumbers } from '../testing/random-values'
import { heapHere } from './heap-here'
import { fillRows, gatherPlane, padRows, scatterPlane } from './island-planes'
import { withoutSimd } from './simd'

const WIDTH = 32
const HEIGHT = 24
const FRACTION = fractionOf(WIDTH, HEIGHT)
const { allocate } = heapHere()!

const inShared = <T extends Float32Array | Int32Array | Uint8Array | Uint32Array>(values: T): T => {
  const { buffer, byteOffset } = allocate(values.byteLength)
  const View = values.constructor as new (buffer: ArrayBufferLike, at: number, length: number) => T
  const own = new View(buffer, byteOffset, values.length)
  own.set(values)
  return own
}

/** A picture of 12 × 10 texels: rows of the raster's, and what is read between its texels. */
function somePatch(random: () => number): Patch {
  const runs: number[] = []
  for (let y = 2; y < 8; y++) runs.push(y * 12 + 3, (y + 5) * WIDTH + 7, 1 + Math.floor(random() * 6))
  const reads = new Uint8Array(40 * READ_BYTES)
  // On a texel, on a row, in the last corner.
  const fixed = [
    [4, 5],
    [6.25, 7],
    [WIDTH - 1, HEIGHT - 1],
  ] as const
  for (let i = 0; i < 40; i++) {
    const [x, y] = fixed[i] ?? [random() * (WIDTH - 1), random() * (HEIGHT - 1)]
    packRead(reads, i, FRACTION, { x, y, cosine: 1, sine: 0, mirror: 1 })
  }
  return {
    ...{ left: 4, top: 3, width: 12, height: 10, firstTap: 0, fraction: FRACTION },
    runs: inShared(Int32Array.from(runs)),
    beyond: inShared(Int32Array.of(0, 24, 96, 16)),
    reads: inShared(reads),
    taps: new Uint8Array(0),
  }
}

test('planes come into pictures of islands, and home again, by the kernels as by their definitions', () => {
  const random = randomNumbers(3)
  for (let run = 0; run < 20; run++) {
    const patch = somePatch(random)
    const plane = inShared(Float32Array.from({ length: WIDTH * HEIGHT }, () => random() * 2 - 1))
    const [own, defined] = [inShared(new Float32Array(120)), new Float32Array(120)]
    gatherPlane(patch, plane, WIDTH, own)
    withoutSimd(() => gatherPlane(patch, plane, WIDTH, defined))
    expect(own).toEqual(defined)
    // By hand: a texel itself, and a quarter of the way to the next.
    expect(own[0]).toBe(plane[5 * WIDTH + 4])
    expect(own[1]).toBeCloseTo(plane[7 * WIDTH + 6]! * 0.75 + plane[7 * WIDTH + 7]! * 0.25, 6)
    const [back, definedBack] = [inShared(new Float32Array(WIDTH * HEIGHT)), new Float32Array(WIDTH * HEIGHT)]
    scatterPlane(patch, own, back)
    withoutSimd(() => scatterPlane(patch, own, definedBack))
    expect(back).toEqual(definedBack)
    for (let r = 0; r < patch.runs.length; r += 3)
      for (let i = 0; i < patch.runs[r + 2]!; i++)
        expect(back[patch.runs[r + 1]! + i]).toBe(plane[patch.runs[r + 1]! + i])
  }
})

test('texels of no island take what the nearest one has, by the kernel as by its definition', () => {
  const random = randomNumbers(8)
  const nearest = inShared(
    Int32Array.from({ length: WIDTH * HEIGHT }, (_, i) => (i % 3 ? i : Math.floor(random() * 700))),
  )
  const set = { nearest } as unknown as PatchSet
  const whole = { top: 0, rows: HEIGHT }
  const [source, padded] = [0, 1].map(() => createField('colour', WIDTH, HEIGHT, whole, allocate))
  for (const plane of source!.planes) for (let i = 0; i < plane.length; i++) plane[i] = random()
  padRows(source!, set, padded!, 5, 20)
  const plain = createField('colour', WIDTH, HEIGHT)
  withoutSimd(() => padRows(source!, set, plain, 5, 20))
  const rows = (field: typeof plain, p: number): Float32Array => field.planes[p]!.subarray(5 * WIDTH, 20 * WIDTH)
  for (let p = 0; p < 3; p++) {
    expect(largestDifference(rows(padded!, p), rows(plain, p))).toBe(0)
    for (let i = 5 * WIDTH; i < 20 * WIDTH; i++) expect(padded!.planes[p]![i]).toBe(source!.planes[p]![nearest[i]!])
  }
  // Where there is no island at all it becomes 0.
  fillRows(padded!, { nearest: Int32Array.of(-1) } as unknown as PatchSet, 0, HEIGHT)
  expect(padded!.planes.every((plane) => plane.every((value) => value === 0))).toBe(true)
})
