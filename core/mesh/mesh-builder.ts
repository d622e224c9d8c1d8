import { GristError } from '../errors'
import { LIMITS } from '../limits'
import type { MeshPart, RawMesh } from './mesh'

/** What a corner of a face has beside its place. */
export interface Corner {
  readonly normal?: readonly number[]
  readonly uv?: readonly number[]
  readonly colour?: readonly number[]
}

/** Puts a mesh together from faces whose corners are named by a key each: corners with equal keys become one vertex. */
export class MeshBuilder {
  private readonly positions: number[] = []
  private readonly normals: number[] = []
  private readonly uvs: number[] = []
  private readonly colours: number[] = []
  private readonly known = new Map<string, number>()
  private readonly parts = new Map<
    string,
    { name: string; material: string | null; triangles: number[]; uvs: boolean }
  >()
  private count = 0
  private hasUvs = false
  private hasColours = false
  private now: { triangles: number[]; uvs: boolean } | null = null

  /** What comes from here on belongs to this part. */
  part(name: string, material: string | null): void {
    const key = JSON.stringify([name, material])
    let part = this.parts.get(key)
    if (!part) this.parts.set(key, (part = { name, material, triangles: [], uvs: false }))
    this.now = part
  }

  vertex(key: string, position: readonly number[], { normal, uv, colour }: Corner): number {
    const known = this.known.get(key)
    if (known !== undefined) return known
    const index = this.positions.length / 3
    this.known.set(key, index)
    this.positions.push(position[0]!, position[1]!, position[2]!)
    this.normals.push(normal?.[0] ?? 0, normal?.[1] ?? 0, normal?.[2] ?? 0)
    this.uvs.push(uv?.[0] ?? 0, uv?.[1] ?? 0)
    this.colours.push(colour?.[0] ?? 1, colour?.[1] ?? 1, colour?.[2] ?? 1, colour?.[3] ?? 1)
    this.hasUvs ||= uv !== undefined
    this.hasColours ||= colour !== undefined
    return index
  }

  /** Throws mesh-invalid over the limit. */
  triangle(a: number, b: number, c: number, hasUvs: boolean): void {
    if (++this.count > LIMITS.model.triangles)
      throw new GristError('mesh-invalid', `Expected at most ${LIMITS.model.triangles} triangles.`)
    if (!this.now) this.part('', null)
    this.now!.triangles.push(a, b, c)
    this.now!.uvs ||= hasUvs
  }

  finish(notes: readonly string[] = []): RawMesh {
    const parts: MeshPart[] = []
    const triangles = new Uint32Array(this.count * 3)
    let from = 0
    for (const { name, material, triangles: own, uvs } of this.parts.values()) {
      triangles.set(own, from * 3)
      const count = own.length / 3
      if (count > 0) parts.push({ name: name || 'part', material, from, count, uvSets: uvs ? 1 : 0 })
      from += count
    }
    return {
      positions: new Float32Array(this.positions),
      normals: new Float32Array(this.normals),
      uvSets: this.hasUvs ? [new Float32Array(this.uvs)] : [],
      colours: this.hasColours ? new Float32Array(this.colours) : null,
      triangles,
      parts,
      notes,
    }
  }
}
