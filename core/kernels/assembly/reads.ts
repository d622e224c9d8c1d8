/** Twins of core/field/reads.ts: where texels read elsewhere, in 8 bytes each. */

const ONE: f64 = 1048576

/** Twin of packRead, of a turn that is not of length 1 yet. */
export function packRead(
  at: usize,
  fraction: i32,
  x: f64,
  y: f64,
  unitCosine: f64,
  unitSine: f64,
  isMirrored: bool,
): void {
  const scale = <f64>(1 << fraction)
  const cosine = abs(unitCosine)
  const sine = abs(unitSine)
  const turn = (isMirrored ? 1 : 0) | (sine > cosine ? 2 : 0) | (unitCosine < 0 ? 4 : 0) | (unitSine < 0 ? 8 : 0)
  const smaller = <u64>Math.floor(min(cosine, sine) * ONE + 0.5)
  const place = (<u64>Math.floor(x * scale + 0.5)) | ((<u64>Math.floor(y * scale + 0.5)) << 20)
  store<u64>(at, place | ((<u64>turn) << 40) | (smaller << 44))
}

/** What a plane of lines of `line` bytes holds at the place of a read: between the four texels around it. */
export function valueOf(read: u64, fraction: i32, plane: usize, line: usize): f64 {
  const x = <u32>(read & 0xfffff)
  const y = <u32>((read >> 20) & 0xfffff)
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
