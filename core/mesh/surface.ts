import type { Room } from '../kernels/baking-room'
import { ownRoom } from '../kernels/baking-room'
import { surfacePlaces } from '../kernels/ray-tree'
import type { TangentFrames } from '../kernels/tangent-frames'
import type { Islands } from './islands'
import { findIslands } from './islands'
import type { Mesh, MeshPart } from './mesh'
import type { TexelSamples } from './raster'
import { cornersOf } from './part-vertices'
import { findPieces, numbersOfColours } from './pieces'
import { cornerTangents } from './tangents'

/** A part as it is baked: its triangles, UVs, and tangents where they are asked for. */
export class PartSurface {
  /** u, v of each corner, six numbers a triangle. */
  readonly corners: Float64Array
  private tangents: Float32Array | null = null
  private foundIslands: Islands | null = null
  private foundPieces: Uint32Array | null = null
  private foundColours: Uint32Array | null = null

  constructor(
    readonly mesh: Mesh,
    readonly part: MeshPart,
    private readonly uvs: Float32Array,
  ) {
    this.corners = cornersOf(mesh, part, uvs)
  }

  /** Places and normals (of length 1) of samples, six numbers each: what rays begin with. */
  placesOf(samples: TexelSamples, room?: Room): Float32Array {
    return surfacePlaces(this.mesh, this.part.from, samples, room)
  }

  /** Places of samples on a cage, whose vertices are those of the mesh: three numbers each. */
  cageOf({ triangles, weights }: TexelSamples, cage: Float32Array): Float32Array {
    const out = new Float32Array(triangles.length * 3)
    for (let i = 0; i < triangles.length; i++) {
      const [b, c] = [weights[i * 2]!, weights[i * 2 + 1]!]
      const [p, q, r] = this.verticesOf(triangles[i]!).map((vertex) => vertex * 3) as [number, number, number]
      for (let k = 0; k < 3; k++) out[i * 3 + k] = cage[p + k]! * (1 - b - c) + cage[q + k]! * b + cage[r + k]! * c
    }
    return out
  }

  /**
   * Tangent frames of samples: the tangent, the bitangent and the normal as they are interpolated, not of length 1, as glTF 2.0 asks
   * (3.7.2.1) and renderers do.
   */
  framesOf({ triangles, weights }: TexelSamples, room: Room = ownRoom): TangentFrames {
    const { normals } = this.mesh
    const tangents = (this.tangents ??= cornerTangents(this.mesh, this.part, this.uvs))
    const triple = (): Float32Array => room(triangles.length * 3)
    const out = { tangents: triple(), bitangents: triple(), normals: triple() }
    const faces = this.mesh.triangles
    for (let i = 0; i < triangles.length; i++) {
      const b = weights[i * 2]!
      const c = weights[i * 2 + 1]!
      const a = 1 - b - c
      const face = (this.part.from + triangles[i]!) * 3
      const p = faces[face]! * 3
      const q = faces[face + 1]! * 3
      const r = faces[face + 2]! * 3
      const t = triangles[i]! * 12
      const nx = normals[p]! * a + normals[q]! * b + normals[r]! * c
      const ny = normals[p + 1]! * a + normals[q + 1]! * b + normals[r + 1]! * c
      const nz = normals[p + 2]! * a + normals[q + 2]! * b + normals[r + 2]! * c
      const tx = tangents[t]! * a + tangents[t + 4]! * b + tangents[t + 8]! * c
      const ty = tangents[t + 1]! * a + tangents[t + 5]! * b + tangents[t + 9]! * c
      const tz = tangents[t + 2]! * a + tangents[t + 6]! * b + tangents[t + 10]! * c
      const sign = tangents[t + 3]! < 0 ? -1 : 1
      const at = i * 3
      out.tangents[at] = tx
      out.tangents[at + 1] = ty
      out.tangents[at + 2] = tz
      out.bitangents[at] = sign * (ny * tz - nz * ty)
      out.bitangents[at + 1] = sign * (nz * tx - nx * tz)
      out.bitangents[at + 2] = sign * (nx * ty - ny * tx)
      out.normals[at] = nx
      out.normals[at + 1] = ny
      out.normals[at + 2] = nz
    }
    return out
  }

  /** Vertices of a triangle of the part. */
  verticesOf(triangle: number): readonly [number, number, number] {
    const at = (this.part.from + triangle) * 3
    const { triangles } = this.mesh
    return [triangles[at]!, triangles[at + 1]!, triangles[at + 2]!]
  }

  /** The connected piece of each triangle of the part, from 0: those that hang together over vertices at the same places. */
  get pieces(): Uint32Array {
    return (this.foundPieces ??= findPieces(this.mesh, this.part))
  }

  /** The number of each vertex's colour, from 1; null where there are none. */
  get colourNumbers(): Uint32Array | null {
    return (this.foundColours ??= this.mesh.colours && numbersOfColours(this.mesh.colours))
  }

  /** Its UV islands. */
  get islands(): Islands {
    return (this.foundIslands ??= findIslands(this.mesh, this.part, this.uvs))
  }
}

/** Brings three numbers to length 1; what has none becomes +Y. */
export function normalise(values: Float32Array, at: number): void {
  const x = values[at]!
  const y = values[at + 1]!
  const z = values[at + 2]!
  const length = Math.sqrt(x * x + y * y + z * z)
  values[at] = length > 0 ? x / length : 0
  values[at + 1] = length > 0 ? y / length : 1
  values[at + 2] = length > 0 ? z / length : 0
}
