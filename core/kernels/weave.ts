import { cosTurns } from '../elementary'
import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { coverage } from './point'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd } from './simd'

/** A repeat of the weave: how many threads it takes, and whether warp i lies over weft j. */
export const WEAVES = {
  plain: { cycle: 2, over: (i, j) => (i + j) % 2 === 0 },
  twill: { cycle: 4, over: (i, j) => (i + j) % 4 < 2 },
  // A five-end satin: each warp dips under one weft in five, two further on every time.
  satin: { cycle: 5, over: (i, j) => (j * 2 + i * 4) % 5 !== 0 },
} as const satisfies Record<string, { cycle: number; over(i: number, j: number): boolean }>

export interface WeaveShape {
  readonly weave: keyof typeof WEAVES
  /** Threads across and down, multiples of the weave's cycle. */
  readonly threads: readonly [number, number]
  /** Half the width of a thread, in pitches. */
  readonly half: number
  readonly roundness: number
  readonly wave: number
}

interface Outputs {
  readonly height?: Field
  readonly warp?: Field
  readonly thread?: Field
}

/**
 * Threads over and under each other. Source: Z. Grosicki, "Watson's Textile Design and Colour", plain, 2/2 twill, satin.
 * Twin: core/kernels/assembly/weave.ts.
 */
export function weaveRows(shape: WeaveShape, out: Outputs, rows: Rows): void {
  const some = out.height ?? out.warp ?? out.thread
  if (!some) return
  const { width, height } = some
  const { cycle, over } = WEAVES[shape.weave]
  const warps = threadsAlong(width, shape.threads[0], shape.half)
  const wefts = threadsAlong(height, shape.threads[1], shape.half)
  const within = Array.from({ length: cycle }, (_, n) => n)
  // A warp rises and sinks as it crosses the wefts, a weft as it crosses the warps.
  const weftRises = within.map((j) =>
    Float64Array.from({ length: width }, (_, x) => eased(warps, x, cycle, (n) => !over(n, j))),
  )
  const row = (y: number) => {
    const v = floorMod(y, height)
    return {
      warpRises: within.map((i) => eased(wefts, v, cycle, (n) => over(i, n))),
      weft: wefts.thread[v]! % cycle,
      cover: wefts.cover[v]!,
      section: wefts.section[v]!,
    }
  }
  const twin = simd()
  if (twin) return twin.scratch(() => bySimd(twin, shape, cycle, warps, weftRises, row, some, out, rows))
  const [tops, seen, covers] = [out.height?.planes[0], out.warp?.planes[0], out.thread?.planes[0]]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(some, y)
    const { warpRises, weft, cover, section } = row(y)
    const weftRise = weftRises[weft]!
    for (let x = 0; x < width; x++) {
      const warpCover = warps.cover[x]!
      const warpTop = heightOf(shape, warpCover, warps.section[x]!, warpRises[warps.thread[x]! % cycle]!)
      const weftTop = heightOf(shape, cover, section, weftRise[x]!)
      if (tops) tops[start + x] = Math.max(warpTop, weftTop)
      if (seen) seen[start + x] = warpTop > weftTop ? 1 : 0
      if (covers) covers[start + x] = Math.max(warpCover, cover)
    }
  }
}

function bySimd(
  twin: Simd,
  { roundness, wave }: WeaveShape,
  cycle: number,
  warps: Threads,
  weftRises: readonly Float64Array[],
  row: (y: number) => { warpRises: number[]; weft: number; cover: number; section: number },
  some: Field,
  out: Outputs,
  rows: Rows,
): void {
  const { width } = some
  const doubles = (values: ArrayLike<number>): number => {
    const at = twin.take(2 * values.length)
    new Float64Array(twin.shared.buffer, at, values.length).set(values)
    return at
  }
  const [cover, section] = [doubles(warps.cover), doubles(warps.section)]
  const rises = weftRises.map(doubles)
  const threads = twin.take(width)
  twin.ints(threads, width).set(warps.thread.map((thread) => thread % cycle))
  const own = twin.take(2 * cycle)
  const fields = [out.height, out.warp, out.thread]
  const rooms = fields.map(() => twin.take(width))
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const { warpRises, weft, cover: weftCover, section: weftSection } = row(y)
    new Float64Array(twin.shared.buffer, own, cycle).set(warpRises)
    const at = fields.map((field, i) => (field ? twin.target(field, field.planes[0]!, y, y + 1, rooms[i]!) : 0))
    twin.assembly.weaveRow(
      width,
      threads,
      cover,
      section,
      own,
      rises[weft]!,
      weftCover,
      weftSection,
      roundness,
      wave,
      at[0]!,
      at[1]!,
      at[2]!,
    )
    fields.forEach((field, i) => field && twin.written(at[i]!, field, field.planes[0]!, y, y + 1, rooms[i]!))
  }
}

/** What each texel along an axis knows of the threads that cross it. */
interface Threads {
  /** The thread it lies on or beside. */
  readonly thread: Int32Array
  /** How much of it the thread covers, and the height of a round section there. */
  readonly cover: Float64Array
  readonly section: Float64Array
  /** The middle of a crossing before it, and how far it is to the next, eased by a cosine. */
  readonly from: Int32Array
  readonly weight: Float64Array
}

function threadsAlong(texels: number, count: number, half: number): Threads {
  const place = Float64Array.from({ length: texels }, (_, i) => ((i + 0.5) / texels) * count)
  const aside = place.map((v) => v - Math.floor(v) - 0.5)
  return {
    thread: Int32Array.from(place, (v) => Math.floor(v)),
    cover: aside.map((d) => coverage(half - Math.abs(d), count / texels)),
    section: aside.map((d) => Math.sqrt(Math.max(0, 1 - (d / half) * (d / half)))),
    from: Int32Array.from(place, (v) => floorMod(Math.floor(v - 0.5), count)),
    weight: place.map((v) => 0.5 - 0.5 * cosTurns((v - 0.5 - Math.floor(v - 0.5)) / 2)),
  }
}

/** −1 under, 1 over, along a thread at a texel. Counts are multiples of the cycle, so crossings may be taken within it. */
function eased({ from, weight }: Threads, at: number, cycle: number, over: (crossing: number) => boolean): number {
  const n = from[at]! % cycle
  const before = over(n) ? 1 : -1
  const after = over((n + 1) % cycle) ? 1 : -1
  return before === after ? before : before + (after - before) * weight[at]!
}

/** Height of a thread's top: its rise, and the round of its section. */
function heightOf({ roundness, wave }: WeaveShape, cover: number, section: number, z: number): number {
  const round = 1 - roundness + roundness * section
  return cover * (0.5 * wave * (0.5 + 0.5 * z) + (1 - 0.5 * wave) * (0.35 + 0.65 * round))
}
