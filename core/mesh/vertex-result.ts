import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import type { Baker, ShownScale } from './baker'
import type { Mesh, MeshPart } from './mesh'
import { weldedVertices } from './welded'

/** Weights of the corner at hand for the places about it that are averaged: in its own third of the triangle. */
const PLACES = [
  [0.92, 0.04],
  [0.7, 0.25],
  [0.7, 0.05],
  [0.5, 0.25],
] as const

/** What becomes vertex colours of a part: pictures by the UDIM number of their tile, one for all where there is but one. */
export interface PartData {
  readonly part: MeshPart
  readonly tiles: ReadonlyMap<number, Field>
  /** A value of a plane as a colour has it, 0–1; as it is where nothing is told. */
  readonly shown?: (value: number, plane: number) => number
}

/**
 * The mesh with pictures of its parts as its vertex colours: the mean around each vertex, by area, in all triangles that meet there. Parts
 * without any keep the colours they have, or are white.
 */
export function vertexResult(mesh: Mesh, uvSet: number, data: readonly PartData[]): Mesh {
  const colours = mesh.colours?.slice() ?? new Float32Array((mesh.positions.length / 3) * 4).fill(1)
  const places = weldedVertices(mesh.positions)
  const uvs = mesh.uvSets[uvSet]
  for (const { part, tiles, shown = (value: number) => value } of data) {
    if (!uvs || uvSet >= part.uvSets) continue
    const sums = new Map<number, [number, number, number, number]>()
    for (let t = part.from; t < part.from + part.count; t++) {
      const corners = [0, 1, 2].map((k) => mesh.triangles[t * 3 + k]!)
      const area = areaOf(mesh, corners)
      corners.forEach((vertex, k) => {
        const [a, b, c] = [vertex, corners[(k + 1) % 3]!, corners[(k + 2) % 3]!]
        const sum = sums.get(places[vertex]!) ?? [0, 0, 0, 0]
        for (const [own, next] of PLACES) {
          const at = (axis: number): number =>
            uvs[a * 2 + axis]! * own + uvs[b * 2 + axis]! * next + uvs[c * 2 + axis]! * (1 - own - next)
          const found = valueAt(tiles, at(0), at(1))
          if (!found) continue
          for (let p = 0; p < 3; p++) {
            const value = found[Math.min(p, found.length - 1)]!
            sum[p] = sum[p]! + Math.min(1, Math.max(0, shown(value, p))) * area
          }
          sum[3] += area
        }
        sums.set(places[vertex]!, sum)
      })
    }
    for (let i = part.from * 3; i < (part.from + part.count) * 3; i++) {
      const vertex = mesh.triangles[i]!
      const [r, g, b, weight] = sums.get(places[vertex]!)!
      if (weight > 0) colours.set([r / weight, g / weight, b / weight, 1], vertex * 4)
    }
  }
  return { ...mesh, colours }
}

/** Mesh data as their pictures have them: normals and numbers with units within 0–1. */
export const shownBy =
  ({ shown, type }: Baker, scale: ShownScale) =>
  (value: number, plane: number): number =>
    shown ? shown(value, plane, scale) : type === 'normal' ? value * 0.5 + 0.5 : value

/** Values between the texels of the tile that a place lies in; null where there is no data. */
function valueAt(tiles: ReadonlyMap<number, Field>, u: number, v: number): number[] | null {
  const [column, down] = [Math.floor(u), Math.floor(v)]
  const field = tiles.get(1001 + column - 10 * down) ?? (tiles.size === 1 ? [...tiles.values()][0]! : null)
  if (!field) return null
  const { width, height, planes } = field
  const [x, y] = [(u - column) * width - 0.5, (v - down) * height - 0.5]
  const [i, j] = [Math.floor(x), Math.floor(y)]
  const [s, t] = [x - i, y - j]
  // At the border of a tile its own texels count.
  const across = (a: number): number => Math.min(width - 1, Math.max(0, a))
  const row = (b: number): number => rowStart(field, floorMod(Math.min(height - 1, Math.max(0, b)), height))
  return planes.map((plane) => {
    const top = plane[row(j) + across(i)]! * (1 - s) + plane[row(j) + across(i + 1)]! * s
    const low = plane[row(j + 1) + across(i)]! * (1 - s) + plane[row(j + 1) + across(i + 1)]! * s
    return top + (low - top) * t
  })
}

function areaOf({ positions: p }: Mesh, corners: readonly number[]): number {
  const [a, b, c] = corners.map((vertex) => vertex * 3) as [number, number, number]
  const [u, v] = [b, c].map((to) => [0, 1, 2].map((k) => p[to + k]! - p[a + k]!)) as [number[], number[]]
  const cross = [0, 1, 2].map((k) => u[(k + 1) % 3]! * v[(k + 2) % 3]! - u[(k + 2) % 3]! * v[(k + 1) % 3]!)
  return Math.sqrt(cross.reduce((sum, one) => sum + one * one, 0)) / 2
}
