import { cosTurns } from '../elementary'
import { GristError } from '../errors'
import { LIMITS } from '../limits'
import { gathered } from './gathered'
import { cornerNormals } from './normals'

/** Triangles of one object that share a material. */
export interface MeshPart {
  readonly name: string
  /** The material's name in the file. */
  readonly material: string | null
  /** Its first triangle, and how many there are. */
  readonly from: number
  readonly count: number
  /** How many of the mesh's UV sets it has. */
  readonly uvSets: number
}

/**
 * A triangulated model in the order of its file.
 *
 * Space: metres, Y up, right-handed; front faces counter-clockwise. UVs as in glTF 2.0: (0, 0) is the upper left of the picture,
 * v grows downward. Colours are linear red, green, blue, alpha.
 */
export interface Mesh {
  /** Three a vertex. */
  readonly positions: Float32Array
  /** Three a vertex, of length 1. */
  readonly normals: Float32Array
  /** Two a vertex each; 0 where a part lacks the set. */
  readonly uvSets: readonly Float32Array[]
  /** Four a vertex. */
  readonly colours: Float32Array | null
  /** Three vertices a triangle; those of a part follow each other. */
  readonly triangles: Uint32Array
  readonly parts: readonly MeshPart[]
  /** What was repaired or left out, in words. */
  readonly notes: readonly string[]
}

/** What a file tells, before it is checked; arrays as in Mesh. Normals that are absent or zero are made. */
export interface RawMesh extends Omit<Mesh, 'normals'> {
  readonly normals: Float32Array | null
  /** The file's format wants absent normals to be those of the faces. */
  readonly flat?: boolean
}

/** Where faces meet at more degrees than this, made normals leave a hard edge. Common practice: 30 to 60. */
const HARD_FROM = 60
/** Cosine of an angle that is none but for rounding. */
const FLAT = 1 - 1e-9

/**
 * Checks a mesh and repairs what can be: triangles without area are dropped, absent normals are made (weighted by area and angle,
 * over vertices at the same place; vertices are split where an edge is hard). Throws mesh-invalid where there is no triangle, a number
 * that is none, an index out of range, or more than the limits allow.
 */
export function finishMesh(raw: RawMesh): Mesh {
  const vertices = raw.positions.length / 3
  checkLimits(raw, vertices)
  checkNumbers('position', raw.positions, 3)
  raw.uvSets.forEach((uvs, set) => checkNumbers(`UV in set ${set}`, uvs, 2))
  for (let i = 0; i < raw.triangles.length; i++)
    if (raw.triangles[i]! >= vertices)
      throw new GristError(
        'mesh-invalid',
        `Triangle ${Math.floor(i / 3)} names vertex ${raw.triangles[i]}, but there are ${vertices}.`,
      )
  const notes = [...raw.notes]
  const { triangles, parts, dropped } = withoutDegenerate(raw)
  if (triangles.length === 0) throw new GristError('mesh-invalid', 'There are no triangles with an area.')
  if (dropped > 0) notes.push(`${dropped} ${dropped === 1 ? 'triangle' : 'triangles'} without area left out.`)
  const { made, ...whole } = withNormals(raw, triangles)
  if (made > 0) {
    const what = made === vertices ? 'Normals' : `Normals of ${made} vertices`
    notes.push(
      raw.flat ? `${what} were made: those of the faces.` : `${what} were made, with hard edges from ${HARD_FROM}°.`,
    )
  }
  return { ...whole, parts, notes }
}

function checkLimits({ triangles, parts }: RawMesh, vertices: number): void {
  const { model } = LIMITS
  const counts = { triangles: triangles.length / 3, vertices, parts: parts.length } as const
  for (const [what, count] of Object.entries(counts))
    if (count > model[what as keyof typeof counts])
      throw new GristError(
        'mesh-invalid',
        `Expected at most ${model[what as keyof typeof counts]} ${what} but there are ${count}.`,
      )
}

function checkNumbers(what: string, values: Float32Array, each: number): void {
  for (let i = 0; i < values.length; i++)
    if (!Number.isFinite(values[i]!))
      throw new GristError('mesh-invalid', `The ${what} of vertex ${Math.floor(i / each)} is no number.`)
}

/** Triangles that have an area, and parts that have triangles. */
function withoutDegenerate({ positions, triangles, parts }: RawMesh): {
  triangles: Uint32Array
  parts: MeshPart[]
  dropped: number
} {
  const kept = new Uint32Array(triangles.length)
  let count = 0
  const left: MeshPart[] = []
  for (const part of parts) {
    const from = count / 3
    for (let t = part.from; t < part.from + part.count; t++) {
      const a = triangles[t * 3]!
      const b = triangles[t * 3 + 1]!
      const c = triangles[t * 3 + 2]!
      if (!hasArea(positions, a, b, c)) continue
      kept[count++] = a
      kept[count++] = b
      kept[count++] = c
    }
    if (count / 3 > from) left.push({ ...part, from, count: count / 3 - from })
  }
  return { triangles: kept.slice(0, count), parts: left, dropped: (triangles.length - count) / 3 }
}

function hasArea(positions: Float32Array, a: number, b: number, c: number): boolean {
  const ox = positions[a * 3]!
  const oy = positions[a * 3 + 1]!
  const oz = positions[a * 3 + 2]!
  const ux = positions[b * 3]! - ox
  const uy = positions[b * 3 + 1]! - oy
  const uz = positions[b * 3 + 2]! - oz
  const vx = positions[c * 3]! - ox
  const vy = positions[c * 3 + 1]! - oy
  const vz = positions[c * 3 + 2]! - oz
  return uy * vz - uz * vy !== 0 || uz * vx - ux * vz !== 0 || ux * vy - uy * vx !== 0
}

type Arrays = Pick<Mesh, 'positions' | 'normals' | 'uvSets' | 'colours' | 'triangles'>

/** A mesh whose normals have length 1; `made` tells how many vertices had none. */
function withNormals(raw: RawMesh, triangles: Uint32Array): Arrays & { readonly made: number } {
  const { positions, uvSets, colours, normals: given } = raw
  const normals = new Float32Array(positions.length)
  const lacks = new Uint8Array(positions.length / 3)
  let made = 0
  for (let v = 0; v < lacks.length; v++) {
    const [x, y, z] = given ? [given[v * 3]!, given[v * 3 + 1]!, given[v * 3 + 2]!] : [0, 0, 0]
    const length = Math.sqrt(x * x + y * y + z * z)
    if (!(length > 0 && Number.isFinite(length))) {
      made += lacks[v] = 1
      continue
    }
    normals[v * 3] = x / length
    normals[v * 3 + 1] = y / length
    normals[v * 3 + 2] = z / length
  }
  const whole = { positions, normals, uvSets, colours, triangles }
  if (made === 0) return { ...whole, made }
  return { ...withMade(whole, lacks, raw.flat ? FLAT : cosTurns(HARD_FROM / 360)), made }
}

/** Gives normals to vertices that lack them; one for each that its corners have, the first takes its place. */
function withMade(whole: Arrays, lacks: Uint8Array, hardFrom: number): Arrays {
  const made = cornerNormals(whole.positions, whole.triangles, hardFrom)
  const triangles = whole.triangles.slice()
  // Of each vertex that was made the one it was made of, and its normal's place among those of corners.
  const [of, at]: [number[], number[]] = [[], []]
  const next = new Int32Array(lacks.length + triangles.length).fill(-1)
  const first = new Int32Array(lacks.length).fill(-1)
  const isAs = (corner: number, other: number): boolean =>
    made[corner * 3] === made[other * 3] &&
    made[corner * 3 + 1] === made[other * 3 + 1] &&
    made[corner * 3 + 2] === made[other * 3 + 2]
  const cornerOf = (vertex: number): number => (vertex < lacks.length ? first[vertex]! : at[vertex - lacks.length]!)
  for (let corner = 0; corner < triangles.length; corner++) {
    const vertex = triangles[corner]!
    if (!lacks[vertex]) continue
    if (first[vertex]! < 0) first[vertex] = corner
    let one = vertex
    while (!isAs(cornerOf(one), corner) && next[one]! >= 0) one = next[one]!
    if (!isAs(cornerOf(one), corner)) {
      next[one] = lacks.length + of.length
      one = next[one]!
      of.push(vertex)
      at.push(corner)
    }
    triangles[corner] = one
  }
  const all = Uint32Array.from({ length: lacks.length + of.length }, (_, v) =>
    v < lacks.length ? v : of[v - lacks.length]!,
  )
  const normals = gathered(all, whole.normals, 3)
  for (let v = 0; v < all.length; v++) {
    if (!lacks[all[v]!]) continue
    const corner = cornerOf(v)
    normals.set(corner < 0 ? [0, 1, 0] : made.subarray(corner * 3, corner * 3 + 3), v * 3)
  }
  return {
    positions: of.length === 0 ? whole.positions : gathered(all, whole.positions, 3),
    normals,
    uvSets: whole.uvSets.map((set) => gathered(all, set, 2)),
    colours: whole.colours && gathered(all, whole.colours, 4),
    triangles,
  }
}

/** The corners of a box around all vertices that triangles use. */
export function boxOf({ positions, triangles }: Pick<Mesh, 'positions' | 'triangles'>): {
  min: [number, number, number]
  max: [number, number, number]
} {
  let [left, low, near] = [Infinity, Infinity, Infinity]
  let [right, high, far] = [-Infinity, -Infinity, -Infinity]
  const isUsed = new Uint8Array(positions.length / 3)
  for (let i = 0; i < triangles.length; i++) isUsed[triangles[i]!] = 1
  for (let v = 0; v < isUsed.length; v++) {
    if (isUsed[v] === 0) continue
    const at = v * 3
    const x = positions[at]!
    const y = positions[at + 1]!
    const z = positions[at + 2]!
    if (x < left) left = x
    if (x > right) right = x
    if (y < low) low = y
    if (y > high) high = y
    if (z < near) near = z
    if (z > far) far = z
  }
  return { min: [left, low, near], max: [right, high, far] }
}
