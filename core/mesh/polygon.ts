import earcut from 'earcut'

/**
 * Triangles of a flat or nearly flat polygon, concave ones too, as numbers of its corners; wound as the polygon is.
 * Shape: `corners` three coordinates a corner. A polygon that has no area gives a fan.
 * Source: the plane is Newell's (M. Newell, after Sutherland, Sproull and Schumacker, 1974); ears are cut by the package earcut.
 */
export function triangulate(corners: readonly number[]): number[] {
  const count = corners.length / 3
  if (count < 3) return []
  if (count === 3) return [0, 1, 2]
  const normal = newellNormal(corners)
  const [x, y, z] = normal.map(Math.abs) as [number, number, number]
  // Seen along the axis that the plane faces most, from the side on which the polygon runs counter-clockwise.
  const axis = x >= y && x >= z ? 0 : y >= z ? 1 : 2
  const [u, v] = [(axis + 1) % 3, (axis + 2) % 3]
  const flat: number[] = []
  for (let i = 0; i < count; i++) flat.push(corners[i * 3 + u]!, corners[i * 3 + v]!)
  const cut = earcut(flat)
  if (cut.length !== (count - 2) * 3) return fan(count)
  const turns = signedArea(flat, cut) > 0 === normal[axis]! > 0
  return turns ? cut : cut.map((_, i) => cut[i - (i % 3) + [0, 2, 1][i % 3]!]!)
}

const fan = (count: number): number[] => Array.from({ length: count - 2 }, (_, i) => [0, i + 1, i + 2]).flat()

function newellNormal(corners: readonly number[]): [number, number, number] {
  const sum: [number, number, number] = [0, 0, 0]
  const count = corners.length / 3
  for (let i = 0; i < count; i++) {
    const [a, b] = [i * 3, ((i + 1) % count) * 3]
    for (let k = 0; k < 3; k++) {
      const [u, v] = [(k + 1) % 3, (k + 2) % 3]
      sum[k] = sum[k]! + (corners[a + u]! - corners[b + u]!) * (corners[a + v]! + corners[b + v]!)
    }
  }
  return sum
}

function signedArea(flat: readonly number[], triangles: readonly number[]): number {
  let sum = 0
  for (let i = 0; i < triangles.length; i += 3) {
    const [a, b, c] = [triangles[i]! * 2, triangles[i + 1]! * 2, triangles[i + 2]! * 2]
    sum += (flat[b]! - flat[a]!) * (flat[c + 1]! - flat[a + 1]!) - (flat[b + 1]! - flat[a + 1]!) * (flat[c]! - flat[a]!)
  }
  return sum
}
