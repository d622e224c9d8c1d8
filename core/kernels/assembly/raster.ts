/*
 * Triangles as samples of texels. Of each triangle: `linear`, six numbers (the weights of its second and third corner at a place x, y are
 * 0 + 1·x + 2·y and 3 + 4·x + 5·y), `places`, its corners in texels, and `rows`, the first and the last that it touches. Numbers have
 * 64 bits, whole ones 32.
 */

/** What is drawn into: rows `firstRow` and on of a picture so many texels wide, with so many samples a texel. */
let width: i32 = 0
let perTexel: i32 = 0
let patternAt: usize = 0
/** The triangle of each sample and of each texel that is touched without one; −1 where there is none. */
let ownerAt: usize = 0
let nearestAt: usize = 0
/** Whether a texel has a sample, one byte each; how far off the nearest triangle is. */
let ownedAt: usize = 0
let distanceAt: usize = 0

/** First and last column in which a weight (constant + slope·x) may be at least 0. */
let low: f64 = 0
let high: f64 = 0

function cut(constant: f64, slope: f64): void {
  if (slope > 0) low = Math.max(low, Math.floor(-constant / slope) - 1)
  else if (slope < 0) high = Math.min(high, Math.ceil(-constant / slope) + 1)
  else if (constant < 0) high = -1
}

/** Gives a triangle those samples of a row that lie in it and are nobody's yet. */
function own(t: i32, linear: usize, y: i32, start: i32): void {
  const bx = load<f64>(linear + 8)
  const dx = load<f64>(linear + 32)
  const BX = f64x2.splat(bx)
  const DX = f64x2.splat(dx)
  const zero = f64x2.splat(0)
  const one = f64x2.splat(1)
  for (let s: i32 = 0; s < perTexel; s++) {
    const at = patternAt + ((<usize>s) << 4)
    const u = load<f64>(at)
    const v = <f64>y + load<f64>(at + 8)
    const b = load<f64>(linear) + load<f64>(linear + 16) * v + bx * u
    const d = load<f64>(linear + 24) + load<f64>(linear + 40) * v + dx * u
    // Where all three weights are at least 0, with a texel to spare; the exact test follows.
    low = 0
    high = <f64>(width - 1)
    cut(b, bx)
    cut(d, dx)
    cut(<f64>1 - b - d, -bx - dx)
    if (high < low) continue
    const last = <i32>high
    const B = f64x2.splat(b)
    const D = f64x2.splat(d)
    // Two columns at a time.
    for (let x = <i32>low; x <= last; x += 2) {
      const X = f64x2.replace_lane(f64x2.splat(<f64>x), 1, <f64>(x + 1))
      const p = f64x2.add(B, f64x2.mul(BX, X))
      const q = f64x2.add(D, f64x2.mul(DX, X))
      const out = v128.or(v128.or(f64x2.lt(p, zero), f64x2.lt(q, zero)), f64x2.gt(f64x2.add(p, q), one))
      const mask = i64x2.bitmask(out)
      if ((mask & 1) == 0) take(t, start + x, s)
      if ((mask & 2) == 0 && x < last) take(t, start + x + 1, s)
    }
  }
}

function take(t: i32, texel: i32, s: i32): void {
  const owner = ownerAt + ((<usize>(texel * perTexel + s)) << 2)
  if (load<i32>(owner) < 0) store<i32>(owner, t)
  store<u8>(ownedAt + <usize>texel, 1)
}

/** The place of a triangle that is nearest to another, and its squared distance. */
let foundX: f64 = 0
let foundY: f64 = 0
let foundAway: f64 = 0

function nearestPlace(places: usize, u: f64, v: f64): void {
  foundX = u
  foundY = v
  foundAway = Infinity
  for (let e: usize = 0; e < 3; e++) {
    const i = places + (e << 4)
    const j = places + ((e == 2 ? 0 : e + 1) << 4)
    const x0 = load<f64>(i)
    const y0 = load<f64>(i + 8)
    const dx = load<f64>(j) - x0
    const dy = load<f64>(j + 8) - y0
    const length = dx * dx + dy * dy
    const along = length > 0 ? Math.min(1, Math.max(0, ((u - x0) * dx + (v - y0) * dy) / length)) : 0
    const x = x0 + along * dx
    const y = y0 + along * dy
    const away = (x - u) * (x - u) + (y - v) * (y - v)
    if (away >= foundAway) continue
    foundX = x
    foundY = y
    foundAway = away
  }
}

/** Remembers a triangle for texels of a row that it touches and that have no sample yet, where none is nearer to their middles. */
function touch(t: i32, places: usize, y: i32, start: i32): void {
  // How far it reaches to both sides between the upper and the lower edge of the row.
  let left: f64 = Infinity
  let right: f64 = -Infinity
  for (let e: usize = 0; e < 3; e++) {
    const i = places + (e << 4)
    const j = places + ((e == 2 ? 0 : e + 1) << 4)
    const x0 = load<f64>(i)
    const y0 = load<f64>(i + 8)
    const x1 = load<f64>(j)
    const y1 = load<f64>(j + 8)
    if (Math.max(y0, y1) < <f64>y || Math.min(y0, y1) > <f64>(y + 1)) continue
    for (let edge = y; edge <= y + 1; edge++) {
      const along = y0 == y1 ? 0 : Math.min(1, Math.max(0, (<f64>edge - y0) / (y1 - y0)))
      const x = x0 + (x1 - x0) * along
      if (x < left) left = x
      if (x > right) right = x
    }
    if (y0 == y1) {
      left = Math.min(left, x1)
      right = Math.max(right, x1)
    }
  }
  const end = Math.min(<f64>(width - 1), Math.floor(right))
  for (let column = Math.max(0, Math.floor(left)); column <= end; column++) {
    const texel = <usize>(start + <i32>column)
    if (load<u8>(ownedAt + texel)) continue
    nearestPlace(places, column + 0.5, <f64>y + 0.5)
    if (load<i32>(nearestAt + (texel << 2)) >= 0 && foundAway >= load<f64>(distanceAt + (texel << 3))) continue
    store<i32>(nearestAt + (texel << 2), t)
    store<f64>(distanceAt + (texel << 3), foundAway)
  }
}

/**
 * Draws triangles into rows `from` to `to`, the first of them first: where several lie over one another that counts. `owner`, `nearest`,
 * `owned` and `distance` have room for the samples and texels of those rows. The number of samples that there are then.
 */
export function drawTriangles(
  count: i32,
  linear: usize,
  places: usize,
  rows: usize,
  pattern: usize,
  samples: i32,
  across: i32,
  from: i32,
  to: i32,
  owner: usize,
  owned: usize,
  nearest: usize,
  distance: usize,
): i32 {
  width = across
  perTexel = samples
  patternAt = pattern
  ownerAt = owner
  ownedAt = owned
  nearestAt = nearest
  distanceAt = distance
  const texels = (to - from) * across
  memory.fill(owner, 0xff, (<usize>(texels * samples)) << 2)
  memory.fill(nearest, 0xff, (<usize>texels) << 2)
  memory.fill(owned, 0, <usize>texels)
  for (let t: i32 = 0; t < count; t++) {
    const i = <usize>t
    const last = min<i32>(to - 1, load<i32>(rows + (i << 3) + 4))
    for (let y = max<i32>(from, load<i32>(rows + (i << 3))); y <= last; y++) {
      const start = (y - from) * across
      own(t, linear + i * 48, y, start)
      touch(t, places + i * 48, y, start)
    }
  }
  let total: i32 = 0
  for (let i: i32 = 0; i < texels * samples; i++) if (load<i32>(owner + ((<usize>i) << 2)) >= 0) total++
  for (let i: i32 = 0; i < texels; i++)
    if (!load<u8>(owned + <usize>i) && load<i32>(nearest + ((<usize>i) << 2)) >= 0) total++
  return total
}

/** Where the next sample is put. */
let texelsOut: usize = 0
let trianglesOut: usize = 0
let weightsOut: usize = 0

function put(texel: i32, number: u32, linear: usize, u: f64, v: f64): void {
  store<i32>(texelsOut, texel)
  store<u32>(trianglesOut, number)
  store<f32>(weightsOut, <f32>(load<f64>(linear) + load<f64>(linear + 8) * u + load<f64>(linear + 16) * v))
  store<f32>(weightsOut + 4, <f32>(load<f64>(linear + 24) + load<f64>(linear + 32) * u + load<f64>(linear + 40) * v))
  texelsOut += 4
  trianglesOut += 4
  weightsOut += 8
}

/**
 * Lists what drawTriangles has drawn, just before: of each sample its texel (counted from the first of the rows), its triangle's
 * `numbers`, and the weights of its second and third corner. A texel that is touched without a sample gets one, nearest to its middle.
 */
export function listSamples(
  from: i32,
  to: i32,
  linear: usize,
  places: usize,
  numbers: usize,
  texels: usize,
  triangles: usize,
  weights: usize,
): void {
  texelsOut = texels
  trianglesOut = triangles
  weightsOut = weights
  for (let y = from; y < to; y++)
    for (let x: i32 = 0; x < width; x++) {
      const texel = (y - from) * width + x
      if (!load<u8>(ownedAt + <usize>texel)) {
        const t = load<i32>(nearestAt + ((<usize>texel) << 2))
        if (t < 0) continue
        nearestPlace(places + <usize>t * 48, <f64>x + 0.5, <f64>y + 0.5)
        put(texel, load<u32>(numbers + ((<usize>t) << 2)), linear + <usize>t * 48, foundX, foundY)
        continue
      }
      for (let s: i32 = 0; s < perTexel; s++) {
        const t = load<i32>(ownerAt + ((<usize>(texel * perTexel + s)) << 2))
        if (t < 0) continue
        const at = patternAt + ((<usize>s) << 4)
        put(
          texel,
          load<u32>(numbers + ((<usize>t) << 2)),
          linear + <usize>t * 48,
          <f64>x + load<f64>(at),
          <f64>y + load<f64>(at + 8),
        )
      }
    }
}
