import { boundedNumber } from './lanes'

/**
 * Twin of edgeWearRow in core/nodes/mesh/edge-wear.ts for `count` texels. `soft`, `noise`, `drivers`, `edges`, `rim` and `convexity` are 0
 * where there is none. `scale` makes curvature the sharpness of an edge, `wide` is how many times as wide the rim is.
 */
export function edgeWear(
  sharp: usize,
  soft: usize,
  noise: usize,
  drivers: usize,
  edges: usize,
  rim: usize,
  convexity: usize,
  count: i32,
  radius: f64,
  scale: f64,
  wide: f64,
  breakup: f64,
  low: f64,
  high: f64,
  level: f64,
): void {
  for (let at: usize = 0; at < (<usize>count) << 2; at += 4) {
    const share = drivers ? min<f64>(1, max<f64>(0, load<f32>(drivers + at))) : 1
    const own = radius * share * scale
    const bulge = max<f64>(0, <f64>load<f32>(sharp + at) * own)
    const broken = noise ? (<f64>load<f32>(noise + at) - 0.5) * breakup : 0
    const worn = mask(bulge + broken * min<f64>(1, bulge * 2), low, high, level)
    if (convexity) store<f32>(convexity + at, boundedNumber(bulge))
    if (edges) store<f32>(edges + at, boundedNumber(worn))
    if (rim) {
      const around = max<f64>(0, <f64>load<f32>(soft + at) * own * wide)
      const beside = mask(around + broken * min<f64>(1, around * 2), low, high, level) - worn
      store<f32>(rim + at, boundedNumber(max<f64>(0, beside)))
    }
  }
}

/** How worn an edge is that is so sharp: from `low` to `high`, or at once from `level` on where those are one. */
function mask(v: f64, low: f64, high: f64, level: f64): f64 {
  if (low == high) return v >= level ? 1 : 0
  if (v >= high) return 1
  if (v <= low) return 0
  const t = <f32>(v - low) / <f32>(high - low)
  return t * t * (<f32>3 - <f32>2 * t)
}
