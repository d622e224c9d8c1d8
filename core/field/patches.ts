/**
 * Where the neighbours of texels are on a part: its islands as pictures of their own. A patch is the box around an island, grown by a
 * reach; what of it does not belong to the island comes from where the surface goes on, on other islands.
 *
 * Shape: `boxes` eight numbers a patch: left and top in the raster (may be negative), width and height; the first of its runs and the one
 * after the last; the same of its entries. `runs` three numbers a stretch of own texels in a row: its first place in the patch, in the
 * raster, its length. `entries` one place in the patch each; `places` two numbers each: where it reads, in texels of the raster, (0, 0)
 * the centre of the first; `turns` three each: cosine and sine of the turn from here to there, and −1 where it is mirrored, else 1.
 */
export interface PatchSet {
  /** How many texels beyond an island are right. */
  readonly reach: number
  readonly boxes: Int32Array
  readonly runs: Int32Array
  readonly entries: Uint32Array
  readonly places: Float32Array
  readonly turns: Float32Array
  /** Of reach 0, which has no pictures: by texel of the raster the nearest that belongs to an island; −1 where there is none. */
  readonly nearest: Int32Array
}

export const patchCount = ({ boxes }: PatchSet): number => boxes.length / 8

/** One patch of a set. */
export interface Patch {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
  readonly runs: Int32Array
  readonly entries: Uint32Array
  readonly places: Float32Array
  readonly turns: Float32Array
}

export function patchAt({ boxes, runs, entries, places, turns }: PatchSet, number: number): Patch {
  const [left, top, width, height, run, runEnd, entry, entryEnd] = boxes.subarray(
    number * 8,
    number * 8 + 8,
  ) as unknown as [number, number, number, number, number, number, number, number]
  return {
    ...{ left, top, width, height },
    runs: runs.subarray(run * 3, runEnd * 3),
    entries: entries.subarray(entry, entryEnd),
    places: places.subarray(entry * 2, entryEnd * 2),
    turns: turns.subarray(entry * 3, entryEnd * 3),
  }
}

/** Brings a plane of the raster into a patch: own texels as they are, others between the four around their place. `width` is the raster's. */
export function gatherPlane(patch: Patch, plane: Float32Array, width: number, out: Float32Array): void {
  const { runs, entries, places } = patch
  for (let r = 0; r < runs.length; r += 3) {
    const [to, from, length] = [runs[r]!, runs[r + 1]!, runs[r + 2]!]
    for (let i = 0; i < length; i++) out[to + i] = plane[from + i]!
  }
  for (let e = 0; e < entries.length; e++) {
    const [x, y] = [places[e * 2]!, places[e * 2 + 1]!]
    const [ix, iy] = [Math.floor(x), Math.floor(y)]
    const [fx, fy] = [x - ix, y - iy]
    const at = iy * width + ix
    const [right, below] = [fx > 0 ? 1 : 0, fy > 0 ? width : 0]
    const upper = plane[at]! * (1 - fx) + plane[at + right]! * fx
    const lower = plane[at + below]! * (1 - fx) + plane[at + below + right]! * fx
    out[entries[e]!] = upper * (1 - fy) + lower * fy
  }
}

/** Brings whole numbers that stand for things into a patch: each from the nearest texel. */
export function gatherIds({ runs, entries, places }: Patch, ids: Uint32Array, width: number, out: Uint32Array): void {
  for (let r = 0; r < runs.length; r += 3)
    for (let i = 0; i < runs[r + 2]!; i++) out[runs[r]! + i] = ids[runs[r + 1]! + i]!
  for (let e = 0; e < entries.length; e++)
    out[entries[e]!] = ids[Math.round(places[e * 2 + 1]!) * width + Math.round(places[e * 2]!)]!
}

/**
 * Turns directions that were brought in into those of the patch: x runs along the picture to the right; `up` is true where y runs
 * upward (normals), false where downward (vectors).
 */
export function turnDirections({ entries, turns }: Patch, xs: Float32Array, ys: Float32Array, up: boolean): void {
  for (let e = 0; e < entries.length; e++) {
    const at = entries[e]!
    const [cosine, sine, mirror] = [turns[e * 3]!, turns[e * 3 + 1]!, turns[e * 3 + 2]!]
    const [x, y] = [xs[at]!, up ? -ys[at]! : ys[at]!]
    xs[at] = cosine * x + sine * y + 0
    const down = mirror * (cosine * y - sine * x)
    ys[at] = (up ? -down : down) + 0
  }
}

/** Writes the own texels of a patch back into the raster. */
export function scatterPlane<T extends Float32Array | Uint32Array>({ runs }: Patch, plane: T, out: T): void {
  for (let r = 0; r < runs.length; r += 3)
    for (let i = 0; i < runs[r + 2]!; i++) out[runs[r + 1]! + i] = plane[runs[r]! + i]!
}
