import { TILE, TILES_AROUND, TILES_UP, bodyAt } from './body'

/** The shapes that lie under the material, as stage-renderer.client.ts makes them. */
export const SIZES = { cube: 1.45, cylinder: { radius: 0.8, height: 1.7 }, plane: 2 } as const

type Triple = [number, number, number]

/** A place of a shape that has a place of the tile: where it is, and which way it faces. */
export interface SurfacePoint {
  readonly at: Triple
  readonly normal: Triple
}

type ShapeName = 'sphere' | 'cube' | 'plane' | 'cylinder' | 'body'

/** Directions of a cube's faces: across, up, outward. Source: three.js, BoxGeometry. */
const FACES: readonly { across: Triple; up: Triple; out: Triple }[] = [
  { across: [1, 0, 0], up: [0, 1, 0], out: [0, 0, 1] },
  { across: [0, 0, -1], up: [0, 1, 0], out: [1, 0, 0] },
  { across: [0, 0, 1], up: [0, 1, 0], out: [-1, 0, 0] },
  { across: [-1, 0, 0], up: [0, 1, 0], out: [0, 0, -1] },
  { across: [1, 0, 0], up: [0, 0, -1], out: [0, 1, 0] },
  { across: [1, 0, 0], up: [0, 0, 1], out: [0, -1, 0] },
]

/** How often the tile goes around a shape, for each time it goes up it. */
export const around = (shape: ShapeName): number =>
  shape === 'sphere' || shape === 'cylinder' ? 2 : shape === 'body' ? TILES_AROUND : 1

/** Width of a tile on a shape that it goes around once. */
export function tileWidth(shape: ShapeName): number {
  if (shape === 'plane') return SIZES.plane
  if (shape === 'cube') return SIZES.cube
  if (shape === 'body') return TILE
  return Math.PI * (shape === 'cylinder' ? SIZES.cylinder.radius : 1)
}

/**
 * Faces or laps of a shape on which the tile lies once: a cube has six, what is turned has as many as tiles go around it, times
 * those that lie above each other.
 */
export const instancesOf = (shape: ShapeName, repeat: number): number =>
  shape === 'body'
    ? repeat * TILES_AROUND * Math.ceil(repeat * TILES_UP)
    : repeat * repeat * (shape === 'cube' ? FACES.length : around(shape))

/**
 * Where a place of the tile (u right, v down, which may lie beyond its border) is on one instance of a shape, unturned;
 * `aspect` is how much taller than wide the tile is. Source: own derivation, from the coordinates of three.js's geometries.
 */
export function surfaceAt(
  shape: ShapeName,
  instance: number,
  u: number,
  v: number,
  repeat: number,
  aspect: number,
): SurfacePoint {
  const laps = repeat * around(shape)
  if (shape === 'body') {
    const up = (Math.floor(instance / laps) + 1 - v) / repeat
    const found = up < 0 ? null : bodyAt(((instance % laps) + u) / repeat, up)
    // What lies above its rim faces nowhere.
    return found ?? { at: [0, 0, 0], normal: [0, 0, 0] }
  }
  const face = shape === 'cube' ? Math.floor(instance / (repeat * repeat)) : 0
  const place = instance - face * repeat * repeat
  // 0–1 of the whole geometry, from the left and from the bottom.
  const s = ((place % laps) + u) / laps
  const t = (Math.floor(place / laps) + 1 - v) / repeat
  if (shape === 'plane')
    return { at: [(s - 0.5) * SIZES.plane, (t - 0.5) * SIZES.plane * aspect, 0], normal: [0, 0, 1] }
  if (shape === 'cube') {
    const { across, up, out } = FACES[face]!
    const half = SIZES.cube / 2
    const at = [0, 1, 2].map((i) => (2 * s - 1) * half * across[i]! + (2 * t - 1) * half * up[i]! + half * out[i]!)
    return { at: at as Triple, normal: [...out] }
  }
  const turn = 2 * Math.PI * s
  if (shape === 'cylinder') {
    const { radius, height } = SIZES.cylinder
    const normal: Triple = [Math.sin(turn), 0, Math.cos(turn)]
    return { at: [radius * normal[0], (t - 0.5) * height, radius * normal[2]], normal }
  }
  const fall = Math.PI * (1 - t)
  const normal: Triple = [-Math.cos(turn) * Math.sin(fall), Math.cos(fall), Math.sin(turn) * Math.sin(fall)]
  return { at: [...normal], normal }
}
