/** Twins of core/field/reads.ts: where texels read elsewhere, in READ_BYTES bytes each. */

export const READ_BYTES: usize = 7

const TURNS: f64 = 4095 * 1.4142135623730951

/**
 * Twin of packRead. The turn is that of the rigid motion which is nearest to a linear map of rows (a, b) and (c, d) (polar decomposition in
 * the plane), mirrored first where that mirrors. What lies beside it is left alone: others may be writing it.
 */
export function packTurned(at: usize, fraction: i32, x: f64, y: f64, a: f64, b: f64, c: f64, d: f64): void {
  const isMirrored = a * d - b * c < 0
  const across = isMirrored ? a - d : a + d
  const down = isMirrored ? c + b : c - b
  const length = Math.sqrt(across * across + down * down)
  const unitCosine = length > 0 ? across / length : 1
  const unitSine = length > 0 ? down / length : 0
  const cosine = abs(unitCosine)
  const sine = abs(unitSine)
  const turn = (isMirrored ? 1 : 0) | (sine > cosine ? 2 : 0) | (unitCosine < 0 ? 4 : 0) | (unitSine < 0 ? 8 : 0)
  const smaller = <u32>Math.floor(min(cosine, sine) * TURNS + 0.5)
  const scale = <f64>(1 << fraction)
  const row = <u32>Math.floor(y * scale + 0.5)
  store<u32>(at, (<u32>Math.floor(x * scale + 0.5)) | (row << 20))
  store<u8>(at, row >> 12, 4)
  store<u16>(at, (<u32>turn) | (smaller << 4), 5)
}

/** What a plane of lines of `line` bytes holds at the place of a read: between the four texels around it. */
export function valueOf(read: usize, fraction: i32, plane: usize, line: usize): f64 {
  const low = load<u32>(read)
  const x = low & 0xfffff
  const y = (low >> 20) | ((<u32>load<u8>(read, 4)) << 12)
  const unit = 1 / <f64>(1 << fraction)
  const mask: u32 = (1 << fraction) - 1
  const fx = <f64>(x & mask) * unit
  const fy = <f64>(y & mask) * unit
  const at = plane + <usize>(y >> fraction) * line + ((<usize>(x >> fraction)) << 2)
  const right: usize = fx > 0 ? 4 : 0
  const below: usize = fy > 0 ? line : 0
  const upper = <f64>load<f32>(at) * (1 - fx) + <f64>load<f32>(at + right) * fx
  const lower = <f64>load<f32>(at + below) * (1 - fx) + <f64>load<f32>(at + below + right) * fx
  return upper * (1 - fy) + lower * fy
}
