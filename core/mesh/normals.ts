import { weldedVertices } from './welded'

/** Around a place with more corners than this the surface is taken to be smooth: nobody can tell, and every two are compared. */
const MAX_COMPARED = 512

/**
 * Normals of the corners of triangles, of length 1: the sum of the normals of the triangles around the place that meet the corner's own
 * at no more than an angle, weighted by their areas and by their angles there. Shape: three numbers a corner, nine a triangle;
 * `hardFrom` is the cosine of that angle.
 * Source: area weights are common practice; angle weights: G. Thürmer, C. Wüthrich, "Computing vertex normals from polygonal
 * facets", Journal of Graphics Tools 3(1), 1998.
 */
export function cornerNormals(positions: Float32Array, triangles: Uint32Array, hardFrom: number): Float32Array {
  const { starts, corners } = cornersAround(weldedVertices(positions), triangles)
  const { directions, weighted } = facesOf(positions, triangles)
  const normals = new Float32Array(triangles.length * 3)
  for (let place = 0; place + 1 < starts.length; place++) {
    const [from, to] = [starts[place]!, starts[place + 1]!]
    const isSmooth = to - from > MAX_COMPARED
    for (let i = from; i < to; i++) {
      const corner = corners[i]!
      const own = Math.floor(corner / 3) * 3
      let [x, y, z] = [0, 0, 0]
      for (let j = from; j < to; j++) {
        const near = Math.floor(corners[j]! / 3) * 3
        const isOneSurface =
          isSmooth ||
          near === own ||
          directions[own]! * directions[near]! +
            directions[own + 1]! * directions[near + 1]! +
            directions[own + 2]! * directions[near + 2]! >=
            hardFrom
        if (!isOneSurface) continue
        x += weighted[corners[j]! * 3]!
        y += weighted[corners[j]! * 3 + 1]!
        z += weighted[corners[j]! * 3 + 2]!
      }
      const length = Math.sqrt(x * x + y * y + z * z)
      normals.set(length > 0 ? [x / length, y / length, z / length] : directions.subarray(own, own + 3), corner * 3)
    }
  }
  return normals
}

/** Corners of triangles by the places that they are at: those of a place from `starts[place]` to before the next. */
function cornersAround(places: Uint32Array, triangles: Uint32Array): { starts: Uint32Array; corners: Uint32Array } {
  const starts = new Uint32Array(places.length + 1)
  for (let corner = 0; corner < triangles.length; corner++) starts[places[triangles[corner]!]! + 1]!++
  for (let place = 0; place < places.length; place++) starts[place + 1]! += starts[place]!
  const at = starts.slice()
  const corners = new Uint32Array(triangles.length)
  for (let corner = 0; corner < triangles.length; corner++) corners[at[places[triangles[corner]!]!]!++] = corner
  return { starts, corners }
}

/** The direction of each triangle, and for each of its corners that direction by area and angle. */
function facesOf(
  positions: Float32Array,
  triangles: Uint32Array,
): { directions: Float64Array; weighted: Float64Array } {
  const directions = new Float64Array(triangles.length)
  const weighted = new Float64Array(triangles.length * 3)
  for (let t = 0; t < triangles.length; t += 3) {
    const corners = [triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3] as const
    const [x, y, z] = crossOf(positions, corners)
    const length = Math.sqrt(x * x + y * y + z * z)
    directions.set([x / length, y / length, z / length], t)
    for (let i = 0; i < 3; i++) {
      const weight = angleAt(positions, corners[i]!, corners[(i + 1) % 3]!, corners[(i + 2) % 3]!)
      weighted.set([x * weight, y * weight, z * weight], (t + i) * 3)
    }
  }
  return { directions, weighted }
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
