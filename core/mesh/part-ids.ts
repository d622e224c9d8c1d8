import type { IdKind } from '../picked-ids'
import type { BakeContext } from './baker'
import type { Mesh } from './mesh'
import { bakerNamed } from './mesh-data'
import type { TexelSamples } from './raster'
import { PartSurface } from './surface'

/** A place on a part: a triangle, from its first, and the weights of the triangle's second and third corner. */
export interface PartPoint {
  readonly triangle: number
  readonly weights: readonly [number, number]
}

/** The numbers of a kind of ID on a part, as they are baked: of all corners, and of places. */
export class PartIds {
  private readonly surface: PartSurface

  constructor(mesh: Mesh, part: number, uvSet: number) {
    const own = mesh.parts[part]!
    const none = new Float32Array((mesh.positions.length / 3) * 2)
    this.surface = new PartSurface(mesh, own, uvSet < own.uvSets ? mesh.uvSets[uvSet]! : none)
  }

  /** The number at a place; 0 where nothing is told apart. */
  at(kind: IdKind, { triangle, weights }: PartPoint): number {
    return this.numbers(kind, Uint32Array.of(triangle), weights)[0]!
  }

  /** All numbers that the part has, the smallest first. */
  all(kind: IdKind): number[] {
    // Those of vertices may be at corners only.
    const corners = [
      [0, 0],
      [1, 0],
      [0, 1],
    ] as const
    const found = new Set<number>()
    for (const weights of kind === 'colour-id' ? corners : corners.slice(0, 1))
      for (const number of this.numbers(kind, this.triangles(), weights)) found.add(number)
    return [...found].sort((a, b) => a - b)
  }

  /** The number at the middle of each triangle. */
  byTriangle(kind: IdKind): Uint32Array {
    return Uint32Array.from(this.numbers(kind, this.triangles(), [1 / 3, 1 / 3]))
  }

  private triangles(): Uint32Array {
    return new Uint32Array(this.surface.part.count).map((_, t) => t)
  }

  private numbers(kind: IdKind, triangles: Uint32Array, [b, c]: readonly [number, number]): Float32Array {
    const samples: TexelSamples = {
      texels: new Uint32Array(triangles.length),
      triangles,
      weights: new Float32Array(triangles.length * 2).map((_, i) => (i % 2 ? c : b)),
    }
    const room = (count: number): Float32Array => new Float32Array(count)
    // IDs are made of the part alone.
    return bakerNamed(kind).bake({ surface: this.surface, samples, room } as unknown as BakeContext)
  }
}
