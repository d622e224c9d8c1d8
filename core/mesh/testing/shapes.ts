import type { Mesh } from '../mesh'

/** The volume that a closed mesh encloses, by the divergence theorem; negative where its faces look inward. */
export function volumeOf({ positions: p, triangles }: Mesh): number {
  let sum = 0
  for (let i = 0; i < triangles.length; i += 3) {
    const [a, b, c] = [triangles[i]! * 3, triangles[i + 1]! * 3, triangles[i + 2]! * 3]
    sum +=
      p[a]! * (p[b + 1]! * p[c + 2]! - p[b + 2]! * p[c + 1]!) +
      p[a + 1]! * (p[b + 2]! * p[c]! - p[b]! * p[c + 2]!) +
      p[a + 2]! * (p[b]! * p[c + 1]! - p[b + 1]! * p[c]!)
  }
  return sum / 6
}

/** Area of all triangles. */
export function areaOf({ positions: p, triangles }: Mesh): number {
  let sum = 0
  for (let i = 0; i < triangles.length; i += 3) {
    const [a, b, c] = [triangles[i]! * 3, triangles[i + 1]! * 3, triangles[i + 2]! * 3]
    const [u, v] = [b, c].map((to) => [0, 1, 2].map((k) => p[to + k]! - p[a + k]!)) as [number[], number[]]
    const cross = [0, 1, 2].map((k) => u[(k + 1) % 3]! * v[(k + 2) % 3]! - u[(k + 2) % 3]! * v[(k + 1) % 3]!)
    sum += Math.sqrt(cross.reduce((all, one) => all + one * one, 0)) / 2
  }
  return sum
}

/** A block of width, height and depth from the origin as OBJ: six quads, each with the whole UV square. */
export const blockObj = (w: number, h: number, d: number): string => `# a block
o block
usemtl steel
v 0 0 0
v ${w} 0 0
v ${w} ${h} 0
v 0 ${h} 0
v 0 0 ${d}
v ${w} 0 ${d}
v ${w} ${h} ${d}
v 0 ${h} ${d}
vt 0 0
vt 1 0
vt 1 1
vt 0 1
f 5/1 6/2 7/3 8/4
f 2/1 1/2 4/3 3/4
f 6/1 2/2 3/3 7/4
f 1/1 5/2 8/3 4/4
f 8/1 7/2 3/3 4/4
f 1/1 2/2 6/3 5/4
`

/** A rectangle in UVs: left, bottom, right, top, v upward. */
type Rectangle = readonly [number, number, number, number]

/**
 * Upright sheets as an OBJ: for each part, "sheet 1" and so on, rectangles that stand where they lie in UVs, each part a metre before the
 * last. Those that touch hang together.
 */
export function sheetsObj(parts: readonly (readonly Rectangle[])[]): string {
  let n = 0
  return parts
    .map((rectangles, k) => {
      const lines = rectangles.flatMap(([u0, v0, u1, v1]) => {
        const corners = [`${u0} ${v0}`, `${u1} ${v0}`, `${u1} ${v1}`, `${u0} ${v1}`]
        n += 4
        const face = [3, 2, 1, 0].map((i) => `${n - i}/${n - i}`).join(' ')
        return [...corners.map((uv) => `v ${uv} ${k}`), ...corners.map((uv) => `vt ${uv}`), `f ${face}`]
      })
      return `o sheet ${k + 1}\n${lines.join('\n')}\n`
    })
    .join('')
}
