/**
 * Samples that stand for others in a draft (core/mesh/sparse.ts): one in each square of `step` texels, and one more for each island and each
 * way the surface faces in it. Of the chosen ones, f32 and i32 numbers in arrays of their own: `before`, the one chosen before it in its
 * square (−1 none); `chosen`, its number among all samples; `xs` and `ys`, its texel; `islands`; `facing`, its normal.
 */
/** Cosine of the most that normals may differ for one sample to stand for another: about 18°. */
const ALIKE: f64 = 0.95

let last: usize = 0
let before: usize = 0
let chosen: usize = 0
let xs: usize = 0
let ys: usize = 0
let islands: usize = 0
let facing: usize = 0

export function beginSparse(
  lastAt: usize,
  beforeAt: usize,
  chosenAt: usize,
  xsAt: usize,
  ysAt: usize,
  islandsAt: usize,
  facingAt: usize,
): void {
  last = lastAt
  before = beforeAt
  chosen = chosenAt
  xs = xsAt
  ys = ysAt
  islands = islandsAt
  facing = facingAt
}

/** How much a chosen one is like a sample: of its island, facing its way; 0: not at all. `normal`: three f32. */
function alike(one: i32, island: u32, normal: usize): f64 {
  if (load<u32>(islands + ((<usize>one) << 2)) != island) return 0
  const own = facing + <usize>one * 12
  const cosine =
    <f64>load<f32>(normal) * <f64>load<f32>(own) +
    <f64>load<f32>(normal, 4) * <f64>load<f32>(own, 4) +
    <f64>load<f32>(normal, 8) * <f64>load<f32>(own, 8)
  return cosine < ALIKE ? 0 : 0.1 + (cosine - ALIKE) / (1 - ALIKE)
}

/**
 * Chooses among `count` samples: `texels` (u32), `triangles` (u32), `places` (six f32 each), `islandOf` (u32 a triangle). `last` (i32)
 * holds −1 for each square, `across` of them in a row of the picture. Gives how many were chosen.
 */
export function chooseSamples(
  texels: usize,
  triangles: usize,
  places: usize,
  islandOf: usize,
  count: i32,
  width: i32,
  step: i32,
  across: i32,
): i32 {
  let made = 0
  for (let s = 0; s < count; s++) {
    const at = (<usize>s) << 2
    const texel = load<i32>(texels + at)
    const y = texel / width
    const x = texel - y * width
    const square = last + ((<usize>((y / step) * across + x / step)) << 2)
    const island = load<u32>(islandOf + ((<usize>load<u32>(triangles + at)) << 2))
    const normal = places + <usize>s * 24 + 12
    let one = load<i32>(square)
    while (one >= 0 && alike(one, island, normal) == 0) one = load<i32>(before + ((<usize>one) << 2))
    if (one >= 0) continue
    const to = (<usize>made) << 2
    store<i32>(before + to, load<i32>(square))
    store<i32>(square, made)
    store<i32>(chosen + to, s)
    store<i32>(xs + to, x)
    store<i32>(ys + to, y)
    store<u32>(islands + to, island)
    memory.copy(facing + <usize>made * 12, normal, 12)
    made++
  }
  return made
}

/**
 * Which chosen ones samples are made of, as weighed for `from` on: those of sample s, i32 in `terms` with weights (f32) in `ratios`, end
 * at `starts` (u32) of s + 1. Stops where there is no room for `each` more, of `room` in all; gives the sample that it stopped at.
 */
export function weighSamples(
  texels: usize,
  triangles: usize,
  places: usize,
  islandOf: usize,
  from: i32,
  count: i32,
  width: i32,
  step: i32,
  across: i32,
  down: i32,
  starts: usize,
  terms: usize,
  ratios: usize,
  each: i32,
  room: i32,
): i32 {
  let n = load<i32>(starts + ((<usize>from) << 2))
  const wide = <f64>step
  for (let s = from; s < count; s++) {
    if (n + each > room) return s
    const at = (<usize>s) << 2
    const texel = load<i32>(texels + at)
    const y = texel / width
    const x = texel - y * width
    const column = x / step
    const row = y / step
    const island = load<u32>(islandOf + ((<usize>load<u32>(triangles + at)) << 2))
    const normal = places + <usize>s * 24 + 12
    const end = n + each
    const right = min(across - 1, column + 1)
    const foot = min(down - 1, row + 1)
    for (let r = row > 0 ? row - 1 : 0; r <= foot; r++)
      for (let c = column > 0 ? column - 1 : 0; c <= right; c++) {
        let one = load<i32>(last + ((<usize>(r * across + c)) << 2))
        for (; one >= 0 && n < end; one = load<i32>(before + ((<usize>one) << 2))) {
          const dx = abs(load<i32>(xs + ((<usize>one) << 2)) - x)
          const dy = abs(load<i32>(ys + ((<usize>one) << 2)) - y)
          if (dx >= step || dy >= step) continue
          const ratio = alike(one, island, normal) * (1 - <f64>dx / wide) * (1 - <f64>dy / wide)
          if (ratio == 0) continue
          store<i32>(terms + ((<usize>n) << 2), one)
          store<f32>(ratios + ((<usize>n) << 2), <f32>ratio)
          n++
        }
      }
    store<i32>(starts + ((<usize>s) << 2), n, 4)
  }
  return count
}

/** Values of samples from those of the chosen, one number each; NaN where none of them is known. */
export function spreadGreys(values: usize, starts: usize, terms: usize, ratios: usize, count: i32, out: usize): void {
  let t: usize = 0
  for (let s: usize = 0; s < <usize>count; s++) {
    const end = <usize>load<u32>(starts + (s << 2), 4)
    let sum: f64 = 0
    let a: f64 = 0
    for (; t < end; t++) {
      const value = <f64>load<f32>(values + ((<usize>load<u32>(terms + (t << 2))) << 2))
      if (value != value) continue
      const ratio = <f64>load<f32>(ratios + (t << 2))
      sum += ratio
      a += value * ratio
    }
    store<f32>(out + (s << 2), sum > 0 ? <f32>(a / sum) : NaN)
  }
}

/** The same of three numbers each; those whose first is NaN are not known. */
export function spreadTriples(values: usize, starts: usize, terms: usize, ratios: usize, count: i32, out: usize): void {
  let t: usize = 0
  for (let s: usize = 0; s < <usize>count; s++) {
    const end = <usize>load<u32>(starts + (s << 2), 4)
    let sum: f64 = 0
    let a: f64 = 0
    let b: f64 = 0
    let c: f64 = 0
    for (; t < end; t++) {
      const at = values + <usize>load<u32>(terms + (t << 2)) * 12
      const first = <f64>load<f32>(at)
      if (first != first) continue
      const ratio = <f64>load<f32>(ratios + (t << 2))
      sum += ratio
      a += first * ratio
      b += <f64>load<f32>(at, 4) * ratio
      c += <f64>load<f32>(at, 8) * ratio
    }
    const to = out + s * 12
    store<f32>(to, sum > 0 ? <f32>(a / sum) : NaN)
    store<f32>(to, <f32>(b / sum), 4)
    store<f32>(to, <f32>(c / sum), 8)
  }
}
