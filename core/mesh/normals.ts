import { weldedVertices } from './welded'

/**
 * Normals of vertices, of length 1: the sum of the normals of the triangles around each place, weighted by their areas and by
 * their angles there. A vertex that no triangle uses gets +Y.
 * Source: area weights are common practice; angle weights: G. Thürmer, C. Wüthrich, "Computing vertex normals from polygonal
 * facets", Journal of Graphics Tools 3(1), 1998.
 */
export function vertexNormals(positions: Float32Array, triangles: Uint32Array): Float32Array {
  const first = weldedVertices(positions)
  const sums = new Float64Array(positions.length)
  for (let t = 0; t < triangles.length; t += 3) {
    const corners = [triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3] as const
    const [nx, ny, nz] = crossOf(positions, corners)
    corners.forEach((corner, i) => {
      const weight = angleAt(positions, corner, corners[(i + 1) % 3]!, corners[(i + 2) % 3]!)
      const at = first[corner / 3]! * 3
      sums[at] = sums[at]! + nx * weight
      sums[at + 1] = sums[at + 1]! + ny * weight
      sums[at + 2] = sums[at + 2]! + nz * weight
    })
  }
  const normals = new Float32Array(positions.length)
  for (let v = 0; v < first.length; v++) {
    const at = first[v]! * 3
    const [x, y, z] = [sums[at]!, sums[at + 1]!, sums[at + 2]!]
    const length = Math.sqrt(x * x + y * y + z * z)
    normals.set(length > 0 ? [x / length, y / length, z / length] : [0, 1, 0], v * 3)
  }
  return normals
}

/** Twice the area times the direction of a triangle. */
function crossOf(p: Float32Array, [a, b, c]: readonly [number, number, number]): [number, number, number] {
  const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!]
  const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!]
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
}

function angleAt(p: Float32Array, at: number, one: number, other: number): number {
  const u = [p[one]! - p[at]!, p[one + 1]! - p[at + 1]!, p[one + 2]! - p[at + 2]!] as const
  const v = [p[other]! - p[at]!, p[other + 1]! - p[at + 1]!, p[other + 2]! - p[at + 2]!] as const
  const dot = u[0] * v[0] + u[1] * v[1] + u[2] * v[2]
  const lengths = Math.sqrt((u[0] ** 2 + u[1] ** 2 + u[2] ** 2) * (v[0] ** 2 + v[1] ** 2 + v[2] ** 2))
  return lengths > 0 ? arcCosine(dot / lengths) : 0
}

/**
 * Arc cosine in radians within 7e-5, the same on every machine.
 * Source: Abramowitz and Stegun, "Handbook of Mathematical Functions", 4.4.45.
 */
function arcCosine(v: number): number {
  const x = Math.min(1, Math.abs(v))
  const arc = Math.sqrt(1 - x) * (1.5707288 + x * (-0.2121144 + x * (0.074261 - x * 0.0187293)))
  return v < 0 ? Math.PI - arc : arc
}
