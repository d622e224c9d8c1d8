import { requiredSimd } from '../kernels/simd'

/**
 * For every texel the nearest that is covered, itself where it is; −1 beyond `most` texels or where none is. Distances are exact;
 * among equals the upper, then the left one counts.
 * Source: P. Felzenszwalb, D. Huttenlocher, "Distance transforms of sampled functions", 2012, carrying along what it is a distance to.
 */
export function nearestCovered(covered: Uint8Array, width: number, height: number, most = Infinity): Int32Array {
  if (most <= NARROW) return nearestWithin(nearestInColumns(covered, width, height), width, height, most)
  const twin = requiredSimd('The nearest texels are found')
  return twin.scratch(() => {
    const words = (count: number): number => twin.take(count)
    const from = words(Math.ceil(covered.length / 4))
    twin.bytes(from, covered.length).set(covered)
    const texels = words(covered.length)
    twin.assembly.nearestRows(from, texels, words(width), width, height)
    const rooms = [words(2 * width), words(2 * width), words(2 * width)] as const
    twin.assembly.nearestTexels(texels, 0, height, width, most * most, ...rooms)
    return twin.ints(texels, covered.length).slice()
  })
}

/** Up to so many texels a look at each column of them is the fastest. */
const NARROW = 64

/** For every texel the row of the nearest covered one in its column; −1 where there is none. */
function nearestInColumns(covered: Uint8Array, width: number, height: number): Int32Array {
  const above = new Int32Array(width * height)
  const last = new Int32Array(width).fill(-1)
  for (let y = 0; y < height; y++)
    for (let x = 0, at = y * width; x < width; x++, at++) {
      if (covered[at]) last[x] = y
      above[at] = last[x]!
    }
  last.fill(-1)
  for (let y = height - 1; y >= 0; y--)
    for (let x = 0, at = y * width; x < width; x++, at++) {
      if (covered[at]) last[x] = y
      const up = above[at]!
      const next = last[x]!
      if (next >= 0 && (up < 0 || next - y < y - up)) above[at] = next
    }
  return above
}

/** Looks from each texel at the columns to both sides, until they are farther off than what was found. */
function nearestWithin(above: Int32Array, width: number, height: number, most: number): Int32Array {
  const found = new Int32Array(width * height)
  const reach = Math.floor(most)
  const beyond = Math.floor(most * most) + 1
  /** Squared distance down or up to the nearest covered texel of each column, with room to both sides. */
  const squares = new Int32Array(width + 2 * reach).fill(beyond)
  /** How many columns off the nearest one with a covered texel that near is, at most `reach` + 1. */
  const off = new Int32Array(width)
  for (let y = 0; y < height; y++) {
    const row = y * width
    let gap = reach + 1
    for (let x = 0; x < width; x++) {
      const down = above[row + x]! - y
      const square = above[row + x]! < 0 || down * down > beyond ? beyond : down * down
      squares[reach + x] = square
      gap = square < beyond ? 0 : gap > reach ? gap : gap + 1
      off[x] = gap
    }
    gap = reach + 1
    for (let x = width - 1; x >= 0; x--) {
      gap = off[x] === 0 ? 0 : gap > reach ? gap : gap + 1
      if (gap < off[x]!) off[x] = gap
    }
    for (let x = 0; x < width; x++) {
      let min = squares[reach + x]!
      let away = 0
      if (min > 0)
        for (let far = Math.max(1, off[x]!); far <= reach && far * far <= min; far++) {
          const aside = far * far
          // Of equals the left column counts: those to the left come before what was found, those to the right after it.
          const left = squares[reach + x - far]! + aside
          if (left <= min && left < beyond) {
            min = left
            away = -far
          }
          const right = squares[reach + x + far]! + aside
          if (right < min) {
            min = right
            away = far
          }
        }
      const column = x + away
      found[row + x] = min < beyond ? above[row + column]! * width + column : -1
    }
  }
  return found
}

/** Texels that are filled from another: its number and that of the other, two each. */
export function filledFrom(nearest: Int32Array): Uint32Array {
  let count = 0
  for (let i = 0; i < nearest.length; i++) if (nearest[i]! >= 0 && nearest[i] !== i) count++
  const fills = new Uint32Array(count * 2)
  for (let i = 0, at = 0; i < nearest.length; i++) {
    if (nearest[i]! < 0 || nearest[i] === i) continue
    fills[at++] = i
    fills[at++] = nearest[i]!
  }
  return fills
}

/** Fills texels from others, in all planes. */
export function pad(planes: readonly Float32Array[], fills: Uint32Array): void {
  for (const plane of planes) for (let i = 0; i < fills.length; i += 2) plane[fills[i]!] = plane[fills[i + 1]!]!
}
