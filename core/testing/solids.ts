import { cosTurns, sinTurns } from '../elementary'

/** Plain meshes for tests: positions and triangles. */
export interface Solid {
  readonly positions: Float32Array
  readonly triangles: Uint32Array
}

/** A sphere of rings and segments, its faces outward. */
export function sphere(radius: number, rings: number, segments: number): Solid {
  const positions: number[] = []
  const triangles: number[] = []
  for (let r = 0; r <= rings; r++)
    for (let s = 0; s <= segments; s++) {
      const [down, round] = [r / rings / 2, s / segments]
      positions.push(
        radius * sinTurns(down) * cosTurns(round),
        radius * cosTurns(down),
        -radius * sinTurns(down) * sinTurns(round),
      )
    }
  const at = (r: number, s: number) => r * (segments + 1) + s
  for (let r = 0; r < rings; r++)
    for (let s = 0; s < segments; s++) {
      if (r > 0) triangles.push(at(r, s), at(r + 1, s), at(r, s + 1))
      if (r < rings - 1) triangles.push(at(r, s + 1), at(r + 1, s), at(r + 1, s + 1))
    }
  return { positions: new Float32Array(positions), triangles: new Uint32Array(triangles) }
}

/** Triangles anywhere in a unit cube. */
export function soup(count: number, size: number, random: () => number): Solid {
  const positions = new Float32Array(count * 9)
  for (let t = 0; t < count; t++) {
    const middle = [random(), random(), random()]
    for (let i = 0; i < 9; i++) positions[t * 9 + i] = middle[i % 3]! + (random() - 0.5) * size
  }
  return { positions, triangles: Uint32Array.from({ length: count * 3 }, (_, i) => i) }
}
