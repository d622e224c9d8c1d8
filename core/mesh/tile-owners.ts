import { GristError } from '../errors'
import type { Mesh } from './mesh'
import { findOverlaps } from './overlaps'
import { nearestCovered } from './padding'
import { cornersOf } from './part-vertices'
import { TileRaster } from './raster'
import { partInTile } from './tile-of-part'

/** Who claims texels of a tile: a part, or those of its texels that have one of some numbers. */
export interface TileClaim {
  readonly part: number
  /** Its numbers texel by texel, row by row, and those that are claimed; absent where all of the part is. */
  readonly ids?: { readonly numbers: Uint32Array; readonly wanted: ReadonlySet<number> }
}

/** A tile of the UVs of a mesh. */
export interface TileOfMesh {
  readonly mesh: Mesh
  readonly uvSet: number
  /** Absent where the tile 0–1 is the only one. */
  readonly udim?: number
}

/** Most claims on a tile: owners are bytes. */
export const MAX_CLAIMS = 255
const NOBODY = 255

/**
 * Whose each texel of a tile is: of those who claim it the last, and where nobody does that of the nearest texel that is claimed (as files
 * are padded: exact distance). Shape: the number of a claim for each texel, row by row. Throws mesh-invalid where none covers anything.
 */
export function tileOwners(
  { mesh, uvSet, udim }: TileOfMesh,
  claims: readonly TileClaim[],
  width: number,
  height: number,
): Uint8Array {
  if (claims.length > MAX_CLAIMS)
    throw new GristError('mesh-invalid', `A tile takes ${MAX_CLAIMS} materials, but ${claims.length} are to lie on it.`)
  const owners = new Uint8Array(width * height).fill(NOBODY)
  const claimed = new Uint8Array(width * height)
  let known: { readonly part: number; readonly covered: Covered } | null = null
  claims.forEach(({ part, ids }, claim) => {
    const covered = known?.part === part ? known.covered : coveredTexels({ mesh, uvSet, udim }, part, width, height)
    known = { part, covered }
    const { texels, levels } = covered
    for (let i = 0; i < texels.length; i++) {
      const texel = texels[i]!
      // What is only touched goes to whoever has its middle.
      if (levels[i]! < claimed[texel]! || (ids && !ids.wanted.has(ids.numbers[texel]!))) continue
      owners[texel] = claim
      claimed[texel] = levels[i]!
    }
  })
  if (owners.every((one) => one === NOBODY))
    throw new GristError('mesh-invalid', 'None of it lies in this tile of UVs.')
  const nearest = nearestCovered(claimed, width, height)
  for (let i = 0; i < nearest.length; i++) if (nearest[i] !== i && nearest[i]! >= 0) owners[i] = owners[nearest[i]!]!
  return owners
}

const TOUCHED = 1
const MIDDLE = 2

/** Texels of a part, one or more times each, and whether it has their middle or only touches them. */
interface Covered {
  readonly texels: Uint32Array
  readonly levels: Uint8Array
}

function coveredTexels({ mesh, uvSet, udim }: TileOfMesh, part: number, width: number, height: number): Covered {
  const here = partInTile(mesh, part, uvSet, udim)
  const own = here.mesh.parts[here.part]!
  const uvs = uvSet < own.uvSets ? here.mesh.uvSets[uvSet] : undefined
  if (!uvs) throw new GristError('mesh-invalid', 'It has no such UVs. Unwrap it first.', { part: own.name })
  const raster = new TileRaster(cornersOf(here.mesh, own, uvs), { width, height, left: 0, top: 0 }, 1)
  const { texels, triangles, weights } = raster.between(0, height)
  const levels = new Uint8Array(texels.length)
  for (let i = 0; i < texels.length; i++) {
    const [at, b, c] = [triangles[i]! * 6, weights[i * 2]!, weights[i * 2 + 1]!]
    const place = (axis: number): number => {
      const [p, q, r] = [raster.places[at + axis]!, raster.places[at + 2 + axis]!, raster.places[at + 4 + axis]!]
      return p + b * (q - p) + c * (r - p)
    }
    const x = place(0) - (texels[i]! % width) - 0.5
    const y = place(1) - Math.floor(texels[i]! / width) - 0.5
    // A texel that is only touched is sampled at the edge, off its middle.
    levels[i] = x * x + y * y < 1e-6 ? MIDDLE : TOUCHED
  }
  return { texels, levels }
}

/** Two parts that lie over one another in a tile. */
export interface TileCollision {
  readonly parts: readonly [number, number]
  /** What they have in common, in pairs of triangles; of very many not all. */
  readonly pairs: number
}

/** Which of some parts lie over one another in a tile: exact, whatever the size of a picture. */
export function tileCollisions({ mesh, uvSet, udim }: TileOfMesh, parts: readonly number[]): TileCollision[] {
  const own = parts.map((part) => {
    const here = partInTile(mesh, part, uvSet, udim)
    const placed = here.mesh.parts[here.part]!
    return uvSet < placed.uvSets ? cornersOf(here.mesh, placed, here.mesh.uvSets[uvSet]!) : new Float64Array()
  })
  const corners = new Float64Array(own.reduce((sum, { length }) => sum + length, 0))
  const partOf = new Int32Array(corners.length / 6)
  let at = 0
  own.forEach((some, i) => {
    corners.set(some, at)
    partOf.fill(i, at / 6, (at + some.length) / 6)
    at += some.length
  })
  const found = new Map<number, number>()
  const { pairs } = findOverlaps(corners)
  for (let i = 0; i < pairs.length; i += 2) {
    const [a, b] = [partOf[pairs[i]!]!, partOf[pairs[i + 1]!]!]
    if (a !== b) found.set(Math.min(a, b) * parts.length + Math.max(a, b), (found.get(a * parts.length + b) ?? 0) + 1)
  }
  return [...found]
    .sort(([a], [b]) => a - b)
    .map(([key, pairs]) => ({
      parts: [parts[Math.floor(key / parts.length)]!, parts[key % parts.length]!],
      pairs,
    }))
}
