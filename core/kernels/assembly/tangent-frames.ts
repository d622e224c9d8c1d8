/*
 * Normals of samples, and those in the tangent frames of a surface. Sums are made in 64 bits and rounded once, as plain TypeScript makes them.
 */

/**
 * Brings directions into frames, three numbers each: what x·T + y·B + z·N makes them of again, of length 1; +Z where that has none. They
 * lie `apart` bytes from one another; NaN in the first of one stays. Frames are neither of length 1 nor at right angles for certain.
 */
export function intoFrames(
  tangents: usize,
  bitangents: usize,
  normals: usize,
  directions: usize,
  apart: usize,
  count: i32,
  out: usize,
): void {
  const end = out + <usize>count * 12
  for (; out < end; out += 12, tangents += 12, bitangents += 12, normals += 12, directions += apart) {
    const x = <f64>load<f32>(directions)
    if (x != x) {
      store<f32>(out, NaN)
      store<f32>(out, NaN, 4)
      store<f32>(out, NaN, 8)
      continue
    }
    const y = <f64>load<f32>(directions, 4)
    const z = <f64>load<f32>(directions, 8)
    const tx = <f64>load<f32>(tangents)
    const ty = <f64>load<f32>(tangents, 4)
    const tz = <f64>load<f32>(tangents, 8)
    const bx = <f64>load<f32>(bitangents)
    const by = <f64>load<f32>(bitangents, 4)
    const bz = <f64>load<f32>(bitangents, 8)
    const nx = <f64>load<f32>(normals)
    const ny = <f64>load<f32>(normals, 4)
    const nz = <f64>load<f32>(normals, 8)
    // Cross products over the determinant.
    const ux = by * nz - bz * ny
    const uy = bz * nx - bx * nz
    const uz = bx * ny - by * nx
    const determinant = tx * ux + ty * uy + tz * uz
    const a = (ux * x + uy * y + uz * z) / determinant
    const b = ((ny * tz - nz * ty) * x + (nz * tx - nx * tz) * y + (nx * ty - ny * tx) * z) / determinant
    const c = ((ty * bz - tz * by) * x + (tz * bx - tx * bz) * y + (tx * by - ty * bx) * z) / determinant
    const length = Math.sqrt(a * a + b * b + c * c)
    store<f32>(out, length > 0 ? <f32>(a / length) : 0)
    store<f32>(out, length > 0 ? <f32>(b / length) : 0, 4)
    store<f32>(out, length > 0 ? <f32>(c / length) : 1, 8)
  }
}

/** Normals out of places and normals, six numbers each; NaN where a height is none. */
export function normalsWhereMet(places: usize, heights: usize, count: i32, out: usize): void {
  const end = out + <usize>count * 12
  for (; out < end; out += 12, places += 24, heights += 4) {
    const height = load<f32>(heights)
    const isMet = height == height
    store<f32>(out, isMet ? load<f32>(places, 12) : NaN)
    store<f32>(out, isMet ? load<f32>(places, 16) : NaN, 4)
    store<f32>(out, isMet ? load<f32>(places, 20) : NaN, 8)
  }
}
