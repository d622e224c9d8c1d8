/**
 * The marked texel nearest to every texel, over a torus, exactly, by the distance of texel centres.
 * Shape: `marked` holds width × height flags, row-major. `nearest(x, y, dx, dy)` is told the way to it, once for every
 * texel, row by row; dx and dy are NaN where nothing is marked at all.
 * Source: P. Felzenszwalb, D. Huttenlocher, "Distance Transforms of Sampled Functions", Theory of Computing 8 (2012):
 * columns by two sweeps, rows by the lower envelope of parabolas, here over half a period more on each side.
 */
export function nearestMarked(
  marked: Uint8Array,
  width: number,
  height: number,
  check: () => void,
  nearest: (x: number, y: number, dx: number, dy: number) => void,
): void {
  const down = waysDown(marked, width, height)
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
      squares[i] = d === NONE ? Infinity : d * d
    }
    const count = lowerEnvelope(squares, place, from)
    for (let x = 0, k = 0; x < width; x++) {
      const q = x + margin
      while (k + 1 < count && from[k + 1]! < q) k++
      if (count === 0) nearest(x, y, NaN, NaN)
      else nearest(x, y, place[k]! - q, down[row + ((place[k]! - margin + width) % width)]!)
    }
  }
}

/**
 * Distance of every texel to the nearest marked one. Units: texels; where nothing is marked, half the diagonal, which no
 * distance on the torus exceeds.
 */
export function distanceToMarked(marked: Uint8Array, width: number, height: number): Float32Array {
  const far = Math.sqrt(width * width + height * height) / 2
  const out = new Float32Array(width * height)
  nearestMarked(
    marked,
    width,
    height,
    () => undefined,
    (x, y, dx, dy) => (out[y * width + x] = dx === dx ? Math.sqrt(dx * dx + dy * dy) : far),
  )
  return out
}

const NONE = 0x7fffffff

/** Rows from each texel to the nearest marked one of its column, above 0 down, wrapping; NONE in a column without any. */
function waysDown(marked: Uint8Array, width: number, height: number): Int32Array {
  const out = new Int32Array(width * height).fill(NONE)
  const sweep = (step: 1 | -1): void => {
    const last = new Int32Array(width).fill(NONE)
    // Twice around, so that what lies across the border is known.
    for (let i = 0; i < 2 * height; i++) {
      const row = (step === 1 ? i % height : height - 1 - (i % height)) * width
      for (let x = 0; x < width; x++) {
        if (marked[row + x]) last[x] = 0
        else if (last[x] !== NONE) last[x] = last[x]! - step
        const d = last[x]!
        if (d !== NONE && Math.abs(d) < Math.abs(out[row + x]!)) out[row + x] = d
      }
    }
  }
  sweep(1)
  sweep(-1)
  return out
}

/** Places of the parabolas (q − p)² + f(p) that lie lowest, and where each begins. Gives their count. */
function lowerEnvelope(f: Float64Array, place: Int32Array, from: Float64Array): number {
  let count = 0
  for (let q = 0; q < f.length; q++) {
    if (f[q] === Infinity) continue
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

/** Flags of the texels of a grey plane that reach `level` (or, with `below`, that do not). */
export function markAbove(
  at: (y: number) => number,
  plane: Float32Array,
  width: number,
  height: number,
  level: number,
  below = false,
): Uint8Array {
  const marked = new Uint8Array(width * height)
  for (let y = 0; y < height; y++) {
    const start = at(y)
    for (let x = 0; x < width; x++) marked[y * width + x] = plane[start + x]! >= level !== below ? 1 : 0
  }
  return marked
}
