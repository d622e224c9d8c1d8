/** Stands for "nowhere" among ways across; no way is so long. */
export const NOWHERE = -32768

/**
 * The crossing nearest to every texel's centre over a torus, exactly. Crossings lie on the columns of texel centres:
 * `part` gives how far below texel (x, y) its column is crossed before texel (x, y + 1), 0–1; NaN where it is not.
 * Shape: width × height, row-major. Gives the columns across to the crossing (NOWHERE where there is none), and for every
 * texel the way down to the nearest crossing of its own column, in texels (NaN where there is none).
 * Source: P. Felzenszwalb, D. Huttenlocher, "Distance Transforms of Sampled Functions", Theory of Computing 8 (2012):
 * columns by two sweeps, rows by the lower envelope of parabolas, here over half a period more on each side.
 */
export function nearestCrossings(
  part: Float32Array,
  width: number,
  height: number,
  check: () => void,
): { across: Int16Array; down: Float32Array } {
  const across = new Int16Array(width * height).fill(NOWHERE)
  const down = waysDown(part, width, height)
  const margin = width >> 1
  const length = width + 2 * margin
  const squares = new Float64Array(length)
  const place = new Int32Array(length)
  const from = new Float64Array(length + 1)
  for (let y = 0; y < height; y++) {
    check()
    const row = y * width
    for (let i = 0; i < length; i++) {
      const d = down[row + ((i - margin + width) % width)]!
      squares[i] = d * d
    }
    const count = lowerEnvelope(squares, place, from)
    if (count === 0) continue
    for (let x = 0, k = 0; x < width; x++) {
      const q = x + margin
      while (k + 1 < count && from[k + 1]! < q) k++
      across[row + x] = place[k]! - q
    }
  }
  return { across, down }
}

/** The way down from each texel to the nearest crossing of its column, less than 0 above it; NaN in a column without any. */
function waysDown(part: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(width * height).fill(NaN)
  const last = new Float64Array(width).fill(NaN)
  // Twice around, so that what lies across the border is known.
  for (let i = 0; i < 2 * height; i++) {
    const row = (i % height) * width
    for (let x = 0; x < width; x++) {
      last[x] = last[x]! - 1
      out[row + x] = last[x]!
      const here = part[row + x]!
      if (here === here) last[x] = here
    }
  }
  last.fill(NaN)
  for (let i = 0; i < 2 * height; i++) {
    const row = (height - 1 - (i % height)) * width
    for (let x = 0; x < width; x++) {
      const here = part[row + x]!
      last[x] = here === here ? here : last[x]! + 1
      const above = out[row + x]!
      if (above !== above || last[x]! < -above) out[row + x] = last[x]!
    }
  }
  return out
}

/** Places of the parabolas (q − p)² + f(p) that lie lowest, and where each begins; NaN is none. Gives their count. */
function lowerEnvelope(f: Float64Array, place: Int32Array, from: Float64Array): number {
  let count = 0
  for (let q = 0; q < f.length; q++) {
    if (f[q] !== f[q]) continue
    let start = -Infinity
    while (count > 0) {
      const p = place[count - 1]!
      start = (f[q]! + q * q - (f[p]! + p * p)) / (2 * (q - p))
      if (start > from[count - 1]!) break
      count--
      start = -Infinity
    }
    place[count] = q
    from[count] = start
    count++
  }
  return count
}
