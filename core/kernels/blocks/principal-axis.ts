/** A line through texels: where it begins and ends along its axis, from the mean on. */
export interface TexelAxis {
  readonly mean: Float64Array
  readonly axis: Float64Array
  from: number
  to: number
}

const found: TexelAxis = { mean: new Float64Array(4), axis: new Float64Array(4), from: 0, to: 0 }
const covariance = new Float64Array(16)
const next = new Float64Array(4)
const ROUNDS = 6

/**
 * The line that texels lie along: of RGBA texels those whose bit is set in the mask, their first so many channels. By the power method; the
 * same object each time.
 */
export function principalAxis(texels: Uint8Array, mask: number, channels: number): TexelAxis {
  const { mean, axis } = found
  mean.fill(0)
  covariance.fill(0)
  let count = 0
  for (let i = 0; i < 16; i++) {
    if (!((mask >> i) & 1)) continue
    count++
    for (let c = 0; c < channels; c++) mean[c]! += texels[4 * i + c]!
  }
  for (let c = 0; c < channels; c++) mean[c]! /= count
  for (let i = 0; i < 16; i++) {
    if (!((mask >> i) & 1)) continue
    for (let a = 0; a < channels; a++) {
      const x = texels[4 * i + a]! - mean[a]!
      for (let b = a; b < channels; b++) covariance[a * 4 + b]! += x * (texels[4 * i + b]! - mean[b]!)
    }
  }
  let widest = 0
  for (let a = 0; a < channels; a++) {
    for (let b = 0; b < a; b++) covariance[a * 4 + b] = covariance[b * 4 + a]!
    if (covariance[a * 5]! > covariance[widest * 5]!) widest = a
  }
  // Begins with the row of the channel that varies most, which is not across the axis.
  for (let c = 0; c < channels; c++) axis[c] = covariance[widest * 4 + c]!
  for (let round = 0; round <= ROUNDS; round++) {
    let length = 0
    for (let a = 0; a < channels; a++) length += axis[a]! * axis[a]!
    length = Math.sqrt(length)
    if (length < 1e-12) {
      axis.fill(0)
      break
    }
    for (let a = 0; a < channels; a++) axis[a]! /= length
    if (round === ROUNDS) break
    for (let a = 0; a < channels; a++) {
      let sum = 0
      for (let b = 0; b < channels; b++) sum += covariance[a * 4 + b]! * axis[b]!
      next[a] = sum
    }
    axis.set(next)
  }
  let [from, to] = [Infinity, -Infinity]
  for (let i = 0; i < 16; i++) {
    if (!((mask >> i) & 1)) continue
    let along = 0
    for (let c = 0; c < channels; c++) along += (texels[4 * i + c]! - mean[c]!) * axis[c]!
    if (along < from) from = along
    if (along > to) to = along
  }
  found.from = from
  found.to = to
  return found
}
