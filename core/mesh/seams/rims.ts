import type { IslandThreads } from '../../engine/island-threads'
import { islandsHere } from '../../engine/island-threads'
import { Growing } from '../../growing'
import { breathing } from '../../breathe'
import { simd } from '../../kernels/simd'
import { fractionOf, newRead, readCount, unpackRead } from '../../field/reads'
import { findReads } from './around-islands'
import type { Layout } from './layout'
import { Layouts } from './layout'
import type { Topology } from './topology'

/**
 * Texels about the borders of islands whose middle lies on none: what a renderer mixes with those inside. Shape: `texels` one number each;
 * `reads` five each: where the surface goes on there, in the raster: x, y, cosine, sine, mirror of a Read (field/reads.ts).
 */
export interface Rims {
  readonly texels: Uint32Array
  readonly reads: Float32Array
  /** Numbers of those that read others. */
  readonly readRims: Uint32Array
}

/** Numbers of a read. */
export const READ = 5

/** Who finds neighbours of islands, and whether anybody wants them still. */
export interface SeamThreads {
  readonly threads?: IslandThreads
  readonly isCancelled?: () => boolean
}

/** The rims of a part's islands whose surface goes on over a seam. Rejects with `cancelled`. */
export async function rimsOf(
  topology: Topology,
  width: number,
  height: number,
  { threads = islandsHere(), isCancelled = () => false }: SeamThreads = {},
): Promise<Rims> {
  const layout = await new Layouts().get(topology, width, height, breathing(isCancelled))
  return rimsIn(layout, { threads, isCancelled })
}

/** The same of a layout that is there already. */
export async function rimsIn(layout: Layout, { threads, isCancelled }: Required<SeamThreads>): Promise<Rims> {
  const { width, height } = layout.unfolding
  const found = await findReads(layout, 'rims', 0, threads, isCancelled)
  const rims = { texels: found.entries.slice(), reads: unpacked(found.reads, width, height) }
  for (const region of [found.entries, found.reads]) threads.free(region)
  return { ...rims, readRims: readingRims(rims, width, height) }
}

/** Reads as numbers: each is asked for by every kind that is baked. */
function unpacked(packed: Uint8Array, width: number, height: number): Float32Array {
  const count = readCount(packed)
  const reads = new Float32Array(count * READ)
  const read = newRead()
  const fraction = fractionOf(width, height)
  for (let i = 0; i < count; i++) {
    unpackRead(packed, i, fraction, read)
    reads[i * READ] = read.x
    reads[i * READ + 1] = read.y
    reads[i * READ + 2] = read.cosine
    reads[i * READ + 3] = read.sine
    reads[i * READ + 4] = read.mirror
  }
  return reads
}

/** Which rims lie, where the surface goes on, beside others. */
function readingRims({ texels, reads }: Pick<Rims, 'texels' | 'reads'>, width: number, height: number): Uint32Array {
  const isRim = new Uint8Array(width * height)
  for (const texel of texels) isRim[texel] = 1
  const found = new Growing(Uint32Array)
  for (let i = 0; i < texels.length; i++) {
    const at = Math.floor(reads[i * READ + 1]!) * width + Math.floor(reads[i * READ]!)
    if (isRim[at] || isRim[at + 1] || isRim[at + width] || isRim[at + width + 1]) found.add(i)
  }
  return found.all
}

/** Rounds after which rims that read rims agree. */
const ROUNDS = 6

/**
 * Gives rims the values from where the surface goes on, between the four texels there, as far as those are known; `turned`: the first two
 * planes are directions along the picture, y upward, turned with it; `unit`: the planes are directions of length 1. Rims that are given a
 * value become known.
 */
export function fillRims(
  { texels, reads, readRims }: Rims,
  planes: readonly Float32Array[],
  known: Uint8Array,
  width: number,
  { turned = false, unit = false }: { readonly turned?: boolean; readonly unit?: boolean } = {},
): void {
  const twin = simd()
  const at = twin?.inPlaceAll([texels, reads, readRims, known, ...planes])
  if (at)
    return twin!.scratch(() => {
      const told = [twin!.offsets(at.slice(4)), planes.length, at[3]!, width, turned, unit, twin!.take(4)] as const
      twin!.assembly.fillRims(at[0]!, at[1]!, 0, texels.length, ...told)
      for (let round = 1; round < ROUNDS; round++)
        twin!.assembly.fillRims(at[0]!, at[1]!, at[2]!, readRims.length, ...told)
    })
  const own = new Float32Array(3)
  const taps = new Int32Array(4)
  for (let round = 0; round < ROUNDS; round++) {
    const some = round === 0 ? null : readRims
    const count = some ? some.length : texels.length
    for (let n = 0; n < count; n++) {
      const i = some ? some[n]! : n
      const texel = texels[i]!
      const x = reads[i * READ]!
      const y = reads[i * READ + 1]!
      const column = Math.floor(x)
      const row = Math.floor(y)
      const fx = x - column
      const fy = y - row
      const right = fx > 0 ? 1 : 0
      const below = fy > 0 ? width : 0
      taps[0] = row * width + column
      taps[1] = taps[0]! + right
      taps[2] = taps[0]! + below
      taps[3] = taps[2]! + right
      if (!known[taps[0]!] || !known[taps[1]!] || !known[taps[2]!] || !known[taps[3]!]) continue
      for (let p = 0; p < planes.length; p++) {
        const plane = planes[p]!
        const upper = plane[taps[0]!]! * (1 - fx) + plane[taps[1]!]! * fx
        const lower = plane[taps[2]!]! * (1 - fx) + plane[taps[3]!]! * fx
        own[p] = upper * (1 - fy) + lower * fy
      }
      if (turned) {
        const cosine = reads[i * READ + 2]!
        const sine = reads[i * READ + 3]!
        const mirror = reads[i * READ + 4]!
        const u = own[0]!
        const v = -own[1]!
        own[0] = cosine * u + sine * v
        own[1] = -(mirror * (cosine * v - sine * u))
      }
      const length = unit ? Math.sqrt(own[0]! * own[0]! + own[1]! * own[1]! + own[2]! * own[2]!) : 1
      // Directions that cancel each other out tell none.
      if (length < 1e-6) continue
      for (let p = 0; p < planes.length; p++) planes[p]![texel] = own[p]! / length + 0
      known[texel] = 1
    }
  }
}
