/**
 * For every texel the nearest that is covered, itself where it is; −1 beyond `most` texels or where none is. Distances are exact;
 * among equals the upper, then the left one counts.
 * Source: P. Felzenszwalb, D. Huttenlocher, "Distance transforms of sampled functions", 2012, carrying along what it is a distance to.
 */
export function nearestCovered(covered: Uint8Array, width: number, height: number, most = Infinity): Int32Array {
  const above = new Int32Array(width * height).fill(-1)
  // Down each column: the row of the nearest covered texel in it.
  for (let x = 0; x < width; x++) {
    let last = -1
    for (let y = 0; y < height; y++) {
      if (covered[y * width + x]) last = y
      above[y * width + x] = last
    }
    let next = -1
    for (let y = height - 1; y >= 0; y--) {
      const at = y * width + x
      if (covered[at]) next = y
      const up = above[at]!
      if (next >= 0 && (up < 0 || next - y < y - up)) above[at] = next
    }
  }
  const found = new Int32Array(width * height).fill(-1)
  const sites = new Int32Array(width)
  const ends = new Float64Array(width + 1)
  const limit = most * most
  for (let y = 0; y < height; y++) {
    const row = y * width
    let count = 0
    const heightOf = (x: number): number => (above[row + x]! - y) ** 2
    /** From where on column `b` is nearer than column `a`, which lies to its left. */
    const meet = (a: number, b: number): number => (heightOf(b) + b * b - heightOf(a) - a * a) / (2 * (b - a))
    for (let x = 0; x < width; x++) {
      if (above[row + x]! < 0) continue
      let at = -Infinity
      while (count > 0) {
        at = meet(sites[count - 1]!, x)
        if (at > ends[count - 1]!) break
        count--
        at = -Infinity
      }
      sites[count] = x
      ends[count] = at
      count++
    }
    let k = 0
    for (let x = 0; x < width && count > 0; x++) {
      while (k + 1 < count && ends[k + 1]! < x) k++
      const site = sites[k]!
      if (heightOf(site) + (x - site) ** 2 <= limit) found[row + x] = above[row + site]! * width + site
    }
  }
  return found
}

/** Fills what is not covered from the nearest texel that is, in all planes. */
export function pad(planes: readonly Float32Array[], nearest: Int32Array): void {
  for (const plane of planes)
    for (let i = 0; i < nearest.length; i++) {
      const from = nearest[i]!
      if (from >= 0 && from !== i) plane[i] = plane[from]!
    }
}
