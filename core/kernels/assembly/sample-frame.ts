/** The frame of the sample at hand: where its rays begin, two directions across its axis, the axis, and the turn of its directions. */
export let ox: f32 = 0
export let oy: f32 = 0
export let oz: f32 = 0
export let tx: f32 = 0
export let ty: f32 = 0
export let tz: f32 = 0
export let bx: f32 = 0
export let by: f32 = 0
export let bz: f32 = 0
export let nx: f32 = 0
export let ny: f32 = 0
export let nz: f32 = 0
export let cos: f32 = 0
export let sin: f32 = 0
/** The direction at hand. */
export let dx: f32 = 0
export let dy: f32 = 0
export let dz: f32 = 0

/** Sets the frame of a sample: its axis is its normal times `side` (1 outward, −1 inward). */
export function aim(at: usize, side: f32, bias: f32, number: u32, turns: usize, turnMask: u32): void {
  nx = side * load<f32>(at + 12)
  ny = side * load<f32>(at + 16)
  nz = side * load<f32>(at + 20)
  // A frame about the normal: T. Duff and others, "Building an orthonormal basis, revisited", 2017.
  const sign: f32 = nz >= 0 ? 1 : -1
  const a = <f32>-1 / (sign + nz)
  bx = nx * ny * a
  by = sign + ny * ny * a
  bz = -ny
  tx = <f32>1 + sign * nx * nx * a
  ty = sign * bx
  tz = -sign * nx
  let hash: u32 = number * 747796405 + 2891336453
  hash = ((hash >> ((hash >> 28) + 4)) ^ hash) * 277803737
  hash = (hash >> 22) ^ hash
  const turn = turns + ((<usize>(hash & turnMask)) << 3)
  cos = load<f32>(turn)
  sin = load<f32>(turn + 4)
  ox = load<f32>(at) + nx * bias
  oy = load<f32>(at + 4) + ny * bias
  oz = load<f32>(at + 8) + nz * bias
}

/** Sets the direction to one of the table, turned and brought into the frame. */
export function turnTo(d: usize): void {
  const lx = load<f32>(d) * cos - load<f32>(d + 4) * sin
  const ly = load<f32>(d) * sin + load<f32>(d + 4) * cos
  const lz = load<f32>(d + 8)
  dx = lx * tx + ly * bx + lz * nx
  dy = lx * ty + ly * by + lz * ny
  dz = lx * tz + ly * bz + lz * nz
}

/** Turns the two directions across the axis about it. */
export function turnFrame(c: f32, s: f32): void {
  const x = tx * c + bx * s
  const y = ty * c + by * s
  const z = tz * c + bz * s
  bx = bx * c - tx * s
  by = by * c - ty * s
  bz = bz * c - tz * s
  tx = x
  ty = y
  tz = z
}
