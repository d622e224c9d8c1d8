import type { Room } from './baking-room'
import { bakingSimd, roomFor, wordsIn } from './baking-room'

/** Triangles that are drawn, as core/kernels/assembly/raster.ts has them. */
export interface DrawnTriangles {
  /** Six numbers each: how the weights of the second and third corner grow over the picture. */
  readonly linear: Float64Array
  /** Corners in texels, six numbers each. */
  readonly places: Float64Array
  /** First and last row of each; −1 where it is not drawn. */
  readonly rows: Int32Array
}

/** Samples of some rows, in the order of their texels. */
export interface DrawnSamples {
  readonly texels: Uint32Array
  readonly triangles: Uint32Array
  readonly weights: Float32Array
}

/** Draws triangles into rows `from` to `to` of a picture `width` texels wide. `pattern`: places of samples in a texel, two numbers each. */
export function drawTriangles(
  { linear, places, rows }: DrawnTriangles,
  pattern: readonly number[],
  width: number,
  [from, to]: readonly [from: number, to: number],
  room: Room,
): DrawnSamples {
  const twin = bakingSimd()
  // Those that touch the rows.
  const numbers: number[] = []
  for (let t = 0; t < rows.length / 2; t++)
    if (rows[t * 2]! >= 0 && rows[t * 2]! < to && rows[t * 2 + 1]! >= from) numbers.push(t)
  // What is given out comes first: what the kernels need besides is free again after them.
  const texels = (to - from) * width
  const most = texels * (pattern.length / 2)
  const given = { texels: wordsIn(room, most), triangles: wordsIn(room, most), weights: room(most * 2) }
  const total = twin.scratch(() => {
    const doubles = (count: number): { at: number; values: Float64Array } => {
      const at = twin.take(count * 2)
      return { at, values: new Float64Array(twin.shared.buffer, at, count) }
    }
    const shape = doubles(numbers.length * 6)
    const corners = doubles(numbers.length * 6)
    const own = doubles(pattern.length)
    const [extents, names] = [twin.take(numbers.length * 2), twin.take(numbers.length)]
    const [ends, named] = [twin.ints(extents, numbers.length * 2), twin.ints(names, numbers.length)]
    own.values.set(pattern)
    numbers.forEach((t, i) => {
      for (let k = 0; k < 6; k++) {
        shape.values[i * 6 + k] = linear[t * 6 + k]!
        corners.values[i * 6 + k] = places[t * 6 + k]!
      }
      ends[i * 2] = rows[t * 2]!
      ends[i * 2 + 1] = rows[t * 2 + 1]!
      named[i] = t
    })
    const { assembly } = twin
    const count = assembly.drawTriangles(
      ...([numbers.length, shape.at, corners.at, extents, own.at, pattern.length / 2, width, from, to] as const),
      ...([twin.take(most), twin.take(texels / 4), twin.take(texels), twin.take(texels * 2)] as const),
    )
    const home = [given.texels, given.triangles, given.weights].map((out) => roomFor(twin, out))
    const [ats, ons, bys] = home.map(({ at }) => at) as [number, number, number]
    assembly.listSamples(from, to, shape.at, corners.at, names, ats, ons, bys)
    for (const one of home) one.done()
    return count
  })
  return {
    texels: given.texels.subarray(0, total),
    triangles: given.triangles.subarray(0, total),
    weights: given.weights.subarray(0, total * 2),
  }
}
