import type { Topology } from '../seams/topology'
import { SEAM, nextEdge } from '../seams/topology'
import { unfold } from '../seams/unfolding'

/** Between the four texels around a place, by hand. */
export function tapAt(plane: Float32Array, width: number, x: number, y: number): number {
  const [ix, iy] = [Math.floor(x - 0.5), Math.floor(y - 0.5)]
  const [fx, fy] = [x - 0.5 - ix, y - 0.5 - iy]
  const at = (column: number, row: number): number => plane[row * width + column]!
  const upper = at(ix, iy) * (1 - fx) + at(ix + 1, iy) * fx
  const lower = at(ix, iy + 1) * (1 - fx) + at(ix + 1, iy + 1) * fx
  return upper * (1 - fy) + lower * fy
}

/** What a renderer shows on both sides of each seam, a texel apart along it: the differences, in order. */
export function seamSteps(topology: Topology, plane: Float32Array, width: number): number[] {
  const { places, maps } = unfold(topology, width, plane.length / width)
  const steps: number[] = []
  for (let edge = 0; edge < topology.twin.length; edge++) {
    if (topology.kind[edge] !== SEAM || topology.twin[edge]! < edge) continue
    const next = nextEdge(edge)
    const [ax, ay] = [places[edge * 2]!, places[edge * 2 + 1]!]
    const [dx, dy] = [places[next * 2]! - ax, places[next * 2 + 1]! - ay]
    const count = Math.max(1, Math.round(Math.sqrt(dx * dx + dy * dy)))
    const m = edge * 6
    for (let i = 0; i < count; i++) {
      const [x, y] = [ax + (dx * (i + 0.5)) / count, ay + (dy * (i + 0.5)) / count]
      const here = tapAt(plane, width, x, y)
      const there = tapAt(
        plane,
        width,
        maps[m]! * x + maps[m + 1]! * y + maps[m + 2]!,
        maps[m + 3]! * x + maps[m + 4]! * y + maps[m + 5]!,
      )
      steps.push(Math.abs(here - there))
    }
  }
  return steps.sort((a, b) => a - b)
}

/** The step that one in so many is above. */
export const percentile = (sorted: readonly number[], share: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))]!
