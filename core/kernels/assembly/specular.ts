import { bounded, unit } from './lanes'

/** Twins of core/kernels/specular.ts. */

/** mix. */
function mix(a: v128, b: v128, w: v128): v128 {
  const mixed = f32x4.add(a, f32x4.mul(f32x4.sub(b, a), w))
  return v128.bitselect(b, mixed, f32x4.eq(w, f32x4.splat(1)))
}

/** largest. */
function largest(a: v128, b: v128, c: v128): v128 {
  return f32x4.pmax(f32x4.pmax(a, b), c)
}

/** splitSpecular; all three of a result are 0 where nobody asks for it. */
export function splitSpecular(
  red: usize,
  green: usize,
  blue: usize,
  metallic: usize,
  diffuseRed: usize,
  diffuseGreen: usize,
  diffuseBlue: usize,
  specularRed: usize,
  specularGreen: usize,
  specularBlue: usize,
  count: i32,
): void {
  const one = f32x4.splat(1)
  const plain = f32x4.splat(0.04)
  const rest = f32x4.sub(one, plain)
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const metal = unit(v128.load(metallic + i))
    const r = v128.load(red + i)
    const g = v128.load(green + i)
    const b = v128.load(blue + i)
    const x = mix(plain, r, metal)
    const y = mix(plain, g, metal)
    const z = mix(plain, b, metal)
    if (specularRed) {
      v128.store(specularRed + i, bounded(x))
      v128.store(specularGreen + i, bounded(y))
      v128.store(specularBlue + i, bounded(z))
    }
    if (diffuseRed) {
      const left = f32x4.sub(one, largest(x, y, z))
      const share = v128.andnot(
        f32x4.div(f32x4.mul(f32x4.sub(one, metal), rest), left),
        f32x4.lt(left, f32x4.splat(1e-6)),
      )
      v128.store(diffuseRed + i, bounded(f32x4.mul(r, share)))
      v128.store(diffuseGreen + i, bounded(f32x4.mul(g, share)))
      v128.store(diffuseBlue + i, bounded(f32x4.mul(b, share)))
    }
  }
}

/** The complement darkened, or the colour brightened where it is metal; then what is painted. */
function tinted(own: v128, both: v128, dark: v128, times: v128, metal: v128, painted: v128): v128 {
  const tint = mix(f32x4.mul(f32x4.sub(both, own), dark), f32x4.mul(own, times), metal)
  return bounded(f32x4.add(tint, f32x4.mul(painted, f32x4.sub(f32x4.splat(1), tint))))
}

/** tintSpecular. */
export function tintSpecular(
  red: usize,
  green: usize,
  blue: usize,
  metallic: usize,
  level: usize,
  upward: usize,
  highlights: usize,
  outRed: usize,
  outGreen: usize,
  outBlue: usize,
  count: i32,
  darken: f32,
  brighten: f32,
  even: f32,
): void {
  const one = f32x4.splat(1)
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const metal = unit(v128.load(metallic + i))
    const painted = unit(v128.load(highlights + i))
    const share = f32x4.sub(one, f32x4.mul(f32x4.splat(even), unit(v128.load(upward + i))))
    const dark = f32x4.mul(f32x4.mul(f32x4.splat(darken), v128.load(level + i)), share)
    const r = unit(v128.load(red + i))
    const g = unit(v128.load(green + i))
    const b = unit(v128.load(blue + i))
    const most = largest(r, g, b)
    const smallest = f32x4.sub(one, largest(f32x4.sub(one, r), f32x4.sub(one, g), f32x4.sub(one, b)))
    const both = f32x4.add(most, smallest)
    const room = f32x4.div(one, f32x4.pmax(most, f32x4.splat(1e-6)))
    const times = f32x4.pmin(f32x4.splat(brighten), room)
    v128.store(outRed + i, tinted(r, both, dark, times, metal, painted))
    v128.store(outGreen + i, tinted(g, both, dark, times, metal, painted))
    v128.store(outBlue + i, tinted(b, both, dark, times, metal, painted))
  }
}

/** foldHighlights. */
export function foldHighlights(
  red: usize,
  green: usize,
  blue: usize,
  specularRed: usize,
  specularGreen: usize,
  specularBlue: usize,
  amount: usize,
  upward: usize,
  outRed: usize,
  outGreen: usize,
  outBlue: usize,
  count: i32,
): void {
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const r = f32x4.mul(unit(v128.load(specularRed + i)), f32x4.splat(0.2126))
    const g = f32x4.mul(unit(v128.load(specularGreen + i)), f32x4.splat(0.7152))
    const b = f32x4.mul(unit(v128.load(specularBlue + i)), f32x4.splat(0.0722))
    const grey = f32x4.add(f32x4.add(r, g), b)
    const added = f32x4.mul(f32x4.mul(grey, v128.load(amount + i)), unit(v128.load(upward + i)))
    v128.store(outRed + i, bounded(unit(f32x4.add(v128.load(red + i), added))))
    v128.store(outGreen + i, bounded(unit(f32x4.add(v128.load(green + i), added))))
    v128.store(outBlue + i, bounded(unit(f32x4.add(v128.load(blue + i), added))))
  }
}
