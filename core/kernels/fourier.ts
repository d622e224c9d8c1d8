import { cosTurns, sinTurns } from '../elementary'

/**
 * The discrete Fourier transform of one length, X_k = Σ x_j · e^(−2πi·jk/n), not scaled; twice, with swapped parts between, gives n · x.
 * Any length: powers of two by J. Cooley, J. Tukey 1965, others as a convolution by L. Bluestein 1970.
 */
export interface Fourier {
  readonly length: number
  /** In place; shape: `length` real and imaginary parts. */
  transform(re: Float64Array, im: Float64Array): void
}

export function fourierOf(length: number): Fourier {
  return (length & (length - 1)) === 0 ? powerOfTwo(length) : anyLength(length)
}

function powerOfTwo(length: number): Fourier {
  const half = length >> 1
  const cos = Float64Array.from({ length: half }, (_, k) => cosTurns(k / length))
  const sin = Float64Array.from({ length: half }, (_, k) => -sinTurns(k / length))
  const bits = Math.round(Math.log2(length))
  const reversed = Uint32Array.from({ length }, (_, i) => {
    let out = 0
    for (let b = 0; b < bits; b++) out |= ((i >>> b) & 1) << (bits - 1 - b)
    return out
  })
  const swap = (values: Float64Array, i: number, j: number): void => {
    const kept = values[i]!
    values[i] = values[j]!
    values[j] = kept
  }
  return {
    length,
    transform: (re, im) => {
      for (let i = 0; i < length; i++) {
        const j = reversed[i]!
        if (j <= i) continue
        swap(re, i, j)
        swap(im, i, j)
      }
      for (let span = 1; span < length; span <<= 1) {
        const step = half / span
        for (let start = 0; start < length; start += 2 * span)
          for (let k = 0; k < span; k++) {
            const [c, s] = [cos[k * step]!, sin[k * step]!]
            const [a, b] = [start + k, start + k + span]
            const x = re[b]! * c - im[b]! * s
            const y = re[b]! * s + im[b]! * c
            re[b] = re[a]! - x
            im[b] = im[a]! - y
            re[a] = re[a]! + x
            im[a] = im[a]! + y
          }
      }
    },
  }
}

/** jk = (j² + k² − (k − j)²) / 2 turns the sum into a convolution, which a longer transform does. */
function anyLength(length: number): Fourier {
  let room = 1
  while (room < 2 * length) room *= 2
  const inner = powerOfTwo(room)
  // k² modulo 2n, so that the angle stays exact for long ones.
  const turns = Array.from({ length }, (_, k) => ((k * k) % (2 * length)) / (2 * length))
  const cos = Float64Array.from(turns, cosTurns)
  const sin = Float64Array.from(turns, sinTurns)
  const [kernelRe, kernelIm] = [new Float64Array(room), new Float64Array(room)]
  for (let k = 0; k < length; k++)
    for (const at of [k, (room - k) % room]) {
      kernelRe[at] = cos[k]!
      kernelIm[at] = sin[k]!
    }
  inner.transform(kernelRe, kernelIm)
  const [a, b] = [new Float64Array(room), new Float64Array(room)]
  return {
    length,
    transform: (re, im) => {
      a.fill(0)
      b.fill(0)
      for (let k = 0; k < length; k++) {
        a[k] = re[k]! * cos[k]! + im[k]! * sin[k]!
        b[k] = im[k]! * cos[k]! - re[k]! * sin[k]!
      }
      inner.transform(a, b)
      for (let k = 0; k < room; k++) {
        const [x, y] = [a[k]!, b[k]!]
        a[k] = x * kernelRe[k]! - y * kernelIm[k]!
        b[k] = x * kernelIm[k]! + y * kernelRe[k]!
      }
      // Back: the same with real and imaginary parts swapped.
      inner.transform(b, a)
      for (let k = 0; k < length; k++) {
        const [x, y] = [a[k]! / room, b[k]! / room]
        re[k] = x * cos[k]! + y * sin[k]!
        im[k] = y * cos[k]! - x * sin[k]!
      }
    },
  }
}

/** The transform of a plane along its rows, then along its columns, in place; `check` is called between lines. */
export function fourierPlane(
  re: Float64Array,
  im: Float64Array,
  width: number,
  height: number,
  check: () => void,
): void {
  const across = fourierOf(width)
  for (let y = 0; y < height; y++) {
    if (y % 64 === 0) check()
    across.transform(re.subarray(y * width, (y + 1) * width), im.subarray(y * width, (y + 1) * width))
  }
  const down = height === width ? across : fourierOf(height)
  // Some columns at a time: a cache line is read whole anyway.
  const COLUMNS = 8
  const [lineRe, lineIm] = [0, 1].map(() => Array.from({ length: COLUMNS }, () => new Float64Array(height))) as [
    Float64Array[],
    Float64Array[],
  ]
  for (let x = 0; x < width; x += COLUMNS) {
    check()
    const count = Math.min(COLUMNS, width - x)
    for (let y = 0; y < height; y++)
      for (let c = 0; c < count; c++) {
        lineRe[c]![y] = re[y * width + x + c]!
        lineIm[c]![y] = im[y * width + x + c]!
      }
    for (let c = 0; c < count; c++) down.transform(lineRe[c]!, lineIm[c]!)
    for (let y = 0; y < height; y++)
      for (let c = 0; c < count; c++) {
        re[y * width + x + c] = lineRe[c]![y]!
        im[y * width + x + c] = lineIm[c]![y]!
      }
  }
}
