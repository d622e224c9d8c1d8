import type { PartFacts } from '../document/domain'
import type { RasterImage } from '../field/pyramid'
import { cosTurns, sinTurns } from '../elementary'
import { unitFloat, hash32 } from '../random'
import type { MeshDataKind } from './mesh-data-kinds'
import { MESH_DATA_KINDS, meshDataKinds } from './mesh-data-kinds'

/*
 * A part for examples of nodes, by formulas: a turned post, u once around it, v from its top down. It has a collar (edges that bulge
 * and a ledge) above a groove.
 */

const SIDE = 64
const HEIGHT = 1
const NAME = 'example:mesh/'

/** Radius at a share of the way down, smooth. */
function radiusAt(down: number): number {
  const bump = (middle: number, half: number, by: number): number => {
    const t = Math.min(1, Math.abs(down - middle) / half)
    return by * (1 - t * t) * (1 - t * t)
  }
  return 0.14 + bump(0.3, 0.12, 0.05) - bump(0.6, 0.1, 0.04)
}
const slopeAt = (down: number): number => (radiusAt(down + 1e-3) - radiusAt(down - 1e-3)) / 2e-3
const bendAt = (down: number): number => (radiusAt(down + 1e-2) - 2 * radiusAt(down) + radiusAt(down - 1e-2)) / 1e-4

type Texel = (u: number, down: number) => number | readonly [number, number, number]

const outward = (u: number, down: number): [number, number, number] => {
  // Where the radius grows downward the surface looks up.
  const up = slopeAt(down) / HEIGHT
  const length = Math.sqrt(1 + up * up)
  return [sinTurns(u) / length, up / length, cosTurns(u) / length]
}
const clamp = (v: number): number => Math.min(1, Math.max(0, v))
const curvature: Texel = (_, down) => (1 / radiusAt(down) - bendAt(down)) * 0.5
const occlusion: Texel = (_, down) => clamp(1 - Math.max(0, bendAt(down)) / 14)
const wave = (u: number): number => 0.5 + 0.5 * sinTurns(7 * u) * sinTurns(3 * u + 0.1)

const TEXELS: Record<MeshDataKind, Texel> = {
  normal: () => [0, 0, 1],
  'object-normal': outward,
  occlusion,
  'bent-normal': outward,
  curvature,
  'rounded-edge': (u, down) => Math.max(-1, Math.min(1, (curvature(u, down) as number) / 12)),
  position: (u, down) => [sinTurns(u) * radiusAt(down), HEIGHT * (1 - down), cosTurns(u) * radiusAt(down)],
  thickness: (_, down) => 2 * radiusAt(down),
  height: () => 0,
  leaks: (u, down) => (down > 0.36 && down < 0.36 + 0.4 * wave(u) ? 1 - (down - 0.36) / (0.4 * wave(u)) : 0),
  light: (u, down) => clamp(0.5 + 0.5 * outward(u, down)[1]) * (occlusion(u, down) as number),
  transfer: (u, down) => ((Math.floor(8 * u) + Math.floor(8 * down)) % 2 ? [0.6, 0.5, 0.4] : [0.2, 0.2, 0.25]),
  'part-id': () => 1,
  'material-id': (_, down) => (down < 0.45 ? 1 : 2),
  'piece-id': () => 1,
  'island-id': (u) => (u < 0.5 ? 1 : 2),
  'colour-id': (u, down) => 1 + (down < 0.45 ? 0 : 1) + 2 * Number(u >= 0.5),
  tangent: (u) => [cosTurns(u), 0, -sinTurns(u)],
  bitangent: (u, down) => {
    const [x, y, z] = outward(u, down)
    const level = Math.sqrt(x * x + z * z)
    return [(-x * y) / level, level, (-z * y) / level]
  },
  'low-normal': outward,
  'vertex-colour': (u, down) => [unitFloat(hash32(Math.floor(u * 4))), down, 0.3],
}

/** The part that examples lie on. */
export const EXAMPLE_PART: PartFacts = {
  name: 'Post',
  mesh: 'example',
  part: 0,
  uvSet: 0,
  metres: 1,
  box: { min: [-0.19, 0, -0.19], max: [0.19, HEIGHT, 0.19] },
  modelBox: { min: [-0.19, 0, -0.19], max: [0.19, HEIGHT, 0.19] },
  data: Object.fromEntries(meshDataKinds.map((kind) => [kind, `${NAME}${kind}`])),
}

/** Mesh data of the example's part by the name of their image; null for other names. */
export function exampleMeshData(name: string): RasterImage | null {
  const kind = name.startsWith(NAME) ? (name.slice(NAME.length) as MeshDataKind) : null
  if (kind === null || !(kind in TEXELS)) return null
  const channels = MESH_DATA_KINDS[kind] === 'grey' || MESH_DATA_KINDS[kind] === 'id' ? 1 : 3
  const values = new Float32Array(SIDE * SIDE * channels)
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) {
      const texel = TEXELS[kind]((x + 0.5) / SIDE, (y + 0.5) / SIDE)
      values.set(typeof texel === 'number' ? [texel] : texel, (y * SIDE + x) * channels)
    }
  return { width: SIDE, height: SIDE, channels, values, bits: 32, float: true }
}
