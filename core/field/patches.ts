import { normaliseAt } from './directions'
import type { Field } from './field'
import type { Read } from './reads'
import { READ_BYTES, fractionOf, newRead, readCount, unpackRead } from './reads'

/**
 * Where the neighbours of texels are on a part: its islands as pictures of their own. A patch is the box around an island, grown by a
 * reach; what of it does not belong to the island comes from where the surface goes on, on other islands.
 *
 * Shape: `boxes` twelve numbers a patch: left and top in the raster (may be negative), width and height; the first of its runs and the one
 * after the last; the same of its stretches beyond, its reads and its taps. `runs` three numbers a stretch of own texels in a row: its
 * first place in the patch, in the raster, its length. `beyond` two numbers a stretch of texels in a row that read elsewhere: its first
 * place in the patch, its length; `reads` where each of them does in the raster (./reads.ts).
 *
 * Where smoothing steps leave the two sides of a seam apart they are mixed. `taps` reads in a patch beyond its island's border, each by a
 * texel of another island. `mixes` three numbers a stretch of such texels in a row, in order of the first: its first texel in the raster,
 * the tap of that, its length; `ratios` by tap how far the texel goes towards what the tap reads, one tap after the other.
 *
 * What coarse steps leave apart is found at the raster's own size. `feet` two reads each: a place on a seam, of the raster as one island has
 * it and as the other does. `fades` stretches as of `mixes`, of the texels beside seams, a foot each; `fadeRatios` by foot how much of the
 * step from the one side to the other is added there.
 */
export interface PatchSet {
  /** How many texels beyond an island are right. */
  readonly reach: number
  readonly boxes: Int32Array
  /** Numbers of the patches, the largest first: so that threads are done with them at about the same time. */
  readonly order: Uint32Array
  readonly runs: Int32Array
  readonly beyond: Int32Array
  readonly reads: Uint8Array
  /** Bits below the point of places that are read in the raster. */
  readonly fraction: number
  readonly taps: Uint8Array
  readonly mixes: Uint32Array
  readonly ratios: Float32Array
  readonly feet: Uint8Array
  readonly fades: Uint32Array
  readonly fadeRatios: Float32Array
  /** How many texels of the raster one of this set's is wide. Its reach is in texels of the raster, its places are in its own. */
  readonly coarse: number
  /** Where it is coarse, the island of each texel of the raster and of each of its own; −1 of none. Of LINKS the latter alone. */
  readonly fineOwners: Int32Array
  readonly owners: Int32Array
  /** Of LINKS: two texels each, one about an island's border, and the one of another island that lies at the same place of the surface. */
  readonly links: Uint32Array
  /** Of reach NEAREST, which has no pictures, and where it is coarse: by texel of the raster the nearest that belongs to an island; −1 where there is none. */
  readonly nearest: Int32Array
}

/** Reaches of sets that have no pictures: of one that knows what is nearest to texels of no island, and of one that knows where islands meet. */
export const NEAREST = 0
export const LINKS = -1

/** Share of a set's reach within which the results of smoothing steps are right beyond islands: what they read lies within the rest. */
export const COLLAR = 0.2

/**
 * Reaches that patches are made for, in texels. Those at full size end where tables grow too large; beyond them the raster is coarser.
 */
const FULL_REACHES = [8, 16, 32, 64, 128] as const
const COARSE_REACH = 64
const MAX_COARSE = 64

/** How many times coarser a raster is that a reach is held on. */
export const coarseOf = (reach: number): number => (reach <= FULL_REACHES.at(-1)! ? 1 : reach / COARSE_REACH)

/** Whether a set of this reach has pictures of islands at full size: steps make nothing beyond them. */
export const isFull = (reach: number): boolean => reach > 0 && coarseOf(reach) === 1

/** The smallest reach that holds a footprint on a raster; undefined where none does. */
export function reachFor(
  footprint: number,
  { width, height }: { readonly width: number; readonly height: number },
): number | undefined {
  const full = FULL_REACHES.find((reach) => reach >= footprint)
  if (full !== undefined) return full
  for (let coarse = 4; coarse <= MAX_COARSE && width % coarse === 0 && height % coarse === 0; coarse *= 2)
    if (coarse * COARSE_REACH >= footprint) return coarse * COARSE_REACH
  return undefined
}

/** Numbers a patch in `boxes`. */
export const BOX = 12

export const patchCount = ({ boxes }: PatchSet): number => boxes.length / BOX
export const tapCount = ({ taps }: PatchSet): number => readCount(taps)
export const footCount = ({ feet }: PatchSet): number => readCount(feet) / 2

/** One patch of a set. */
export interface Patch {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
  readonly runs: Int32Array
  readonly beyond: Int32Array
  readonly reads: Uint8Array
  /** Bits below the point of places that are read in the raster. */
  readonly fraction: number
  readonly taps: Uint8Array
  /** Number of its first tap in the set. */
  readonly firstTap: number
}

export function patchAt({ boxes, runs, beyond, reads, fraction, taps }: PatchSet, number: number): Patch {
  const at = (k: number): number => boxes[number * BOX + k]!
  return {
    ...{ left: at(0), top: at(1), width: at(2), height: at(3) },
    runs: runs.subarray(at(4) * 3, at(5) * 3),
    beyond: beyond.subarray(at(6) * 2, at(7) * 2),
    ...{ reads: reads.subarray(at(8) * READ_BYTES, at(9) * READ_BYTES), fraction },
    ...{ taps: taps.subarray(at(10) * READ_BYTES, at(11) * READ_BYTES), firstTap: at(10) },
  }
}

/** Between the four texels around a place. */
export function valueAt(plane: Float32Array, width: number, x: number, y: number): number {
  const ix = Math.floor(x)
  const iy = Math.floor(y)
  const fx = x - ix
  const fy = y - iy
  const at = iy * width + ix
  const right = fx > 0 ? 1 : 0
  const below = fy > 0 ? width : 0
  const upper = plane[at]! * (1 - fx) + plane[at + right]! * fx
  const lower = plane[at + below]! * (1 - fx) + plane[at + below + right]! * fx
  return upper * (1 - fy) + lower * fy
}

/** What the taps of a patch read of a plane of it. */
export function readTaps({ taps, firstTap, width, height }: Patch, plane: Float32Array, out: Float32Array): void {
  const fraction = fractionOf(width, height)
  const read = newRead()
  for (let i = 0; i < readCount(taps); i++) {
    const { x, y } = unpackRead(taps, i, fraction, read)
    out[firstTap + i] = valueAt(plane, width, x, y)
  }
}

/** Mixes what taps read into the texels of some rows. `width` is the raster's. */
export function mixTaps(
  { mixes, ratios }: PatchSet,
  read: Float32Array,
  plane: Float32Array,
  width: number,
  from: number,
  to: number,
): void {
  forStretches(mixes, width, from, to, (texel, tap) => {
    plane[texel] = plane[texel]! + ratios[tap]! * (read[tap]! - plane[texel]!)
  })
}

/** Adds some of the steps over seams to the texels of some rows beside them. `width` is the raster's. */
export function fadeSteps(
  { fades, fadeRatios }: PatchSet,
  steps: Float32Array,
  plane: Float32Array,
  width: number,
  from: number,
  to: number,
): void {
  forStretches(fades, width, from, to, (texel, foot) => {
    plane[texel] = plane[texel]! + fadeRatios[foot]! * steps[foot]!
  })
}

/** Brings normals that were changed in stretches of some rows back to length 1. */
export function normaliseStretches(
  stretches: Uint32Array,
  planes: readonly Float32Array[],
  width: number,
  from: number,
  to: number,
): void {
  forStretches(stretches, width, from, to, (texel) => normaliseAt(planes, texel))
}

/**
 * How far a step of a coarse set goes from one side of seams to the other, at feet `from` to `to`: of each plane of a field. Directions
 * are those of the texel's own island.
 */
export function stepsOver(
  { feet }: PatchSet,
  { planes, width, height, type }: Field,
  steps: readonly Float32Array[],
  from: number,
  to: number,
): void {
  const isTurned = type === 'normal' || type === 'vector'
  const fraction = fractionOf(width, height)
  const read = newRead()
  for (let i = from; i < to; i++) {
    const { x, y } = unpackRead(feet, i * 2 + 1, fraction, read)
    for (let p = 0; p < planes.length; p++) steps[p]![i] = valueAt(planes[p]!, width, x, y)
    if (isTurned) turnOne(read, steps[0]!, steps[1]!, i, type === 'normal')
    unpackRead(feet, i * 2, fraction, read)
    for (let p = 0; p < planes.length; p++) steps[p]![i] = steps[p]![i]! - valueAt(planes[p]!, width, read.x, read.y)
  }
}

/** Calls `work` with the texels of stretches in some rows, and the number that goes with each. */
function forStretches(
  stretches: Uint32Array,
  width: number,
  from: number,
  to: number,
  work: (texel: number, number: number) => void,
): void {
  for (let s = firstStretch(stretches, from * width); s < stretches.length && stretches[s]! < to * width; s += 3) {
    const [texel, number, length] = [stretches[s]!, stretches[s + 1]!, stretches[s + 2]!]
    for (let k = 0; k < length; k++) work(texel + k, number + k)
  }
}

/** Where the stretches that begin at a texel, or after it, begin. */
function firstStretch(stretches: Uint32Array, texel: number): number {
  let low = 0
  let high = stretches.length / 3
  while (low < high) {
    const middle = (low + high) >> 1
    if (stretches[middle * 3]! < texel) low = middle + 1
    else high = middle
  }
  return low * 3
}

/** Brings whole numbers that stand for things into a patch: each from the nearest texel. */
export function gatherIds(
  { runs, beyond, reads, fraction }: Patch,
  ids: Uint32Array,
  width: number,
  out: Uint32Array,
): void {
  for (let r = 0; r < runs.length; r += 3)
    for (let i = 0; i < runs[r + 2]!; i++) out[runs[r]! + i] = ids[runs[r + 1]! + i]!
  const read = newRead()
  forBeyond(beyond, (to, i) => {
    const { x, y } = unpackRead(reads, i, fraction, read)
    out[to] = ids[Math.round(y) * width + Math.round(x)]!
  })
}

/** Calls `work` with the place of each texel that reads elsewhere, and its number among them. */
export function forBeyond(beyond: Int32Array, work: (to: number, number: number) => void): void {
  let number = 0
  for (let s = 0; s < beyond.length; s += 2) for (let k = 0; k < beyond[s + 1]!; k++) work(beyond[s]! + k, number++)
}

/**
 * Turns directions that were brought in into those of the patch: x runs along the picture to the right; `up` is true where y runs
 * upward (normals), false where downward (vectors).
 */
export function turnDirections(
  { beyond, reads, fraction }: Patch,
  xs: Float32Array,
  ys: Float32Array,
  up: boolean,
): void {
  const read = newRead()
  forBeyond(beyond, (to, i) => turnOne(unpackRead(reads, i, fraction, read), xs, ys, to, up))
}

/** The same of what the taps of a patch read, into those of the texels that they are for. */
export function turnTaps(
  { taps, firstTap, width, height }: Patch,
  xs: Float32Array,
  ys: Float32Array,
  up: boolean,
): void {
  const read = newRead()
  const fraction = fractionOf(width, height)
  for (let i = 0; i < readCount(taps); i++) turnOne(unpackRead(taps, i, fraction, read), xs, ys, firstTap + i, up)
}

function turnOne({ cosine, sine, mirror }: Read, xs: Float32Array, ys: Float32Array, at: number, up: boolean): void {
  const x = xs[at]!
  const y = up ? -ys[at]! : ys[at]!
  xs[at] = cosine * x + sine * y + 0
  const down = mirror * (cosine * y - sine * x)
  ys[at] = (up ? -down : down) + 0
}
