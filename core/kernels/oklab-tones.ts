import type { Rgb } from '../colour/srgb'
import { cosTurns, sinTurns } from '../elementary'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { mixBounded, weightOf } from './blend-fields'
import { smoothstep } from './point'
import type { Rows } from './rows'
import { simd } from './simd'

const f = Math.fround

/**
 * Tones in Oklab by float32 steps. Error: the cube root within 3e-7 of its value, L, a, b within 8e-7 for colours from 0 to 1
 * (oklab-tones.test.ts). Source of the space: B. Ottosson, "A perceptual color space for image processing", 2020, with the
 * matrices of 2021-01-25; hue and chroma are the polar form of a and b. Twins: core/kernels/assembly/oklab.ts.
 */

const word = new Float32Array(1)
const bits = new Int32Array(word.buffer)
/** What a third of a float32's bits lack to be those of its cube root: two thirds of the exponent's bias, less a little. */
const THIRD = f(1 / 3)
const BIAS = f(709921077)

/** Cube root, odd. The bits of a number give a guess within 4 %, and each of Halley's steps has the cube of the error. */
export function cubeRoot(v: number): number {
  if (v === 0) return 0
  const a = v < 0 ? -v : v
  word[0] = a
  bits[0] = Math.trunc(f(f(f(bits[0]!) * THIRD) + BIAS))
  let y = word[0]
  for (let step = 0; step < 2; step++) {
    const cube = f(f(y * y) * y)
    y = f(y * f(f(cube + f(a + a)) / f(f(cube + cube) + a)))
  }
  return v < 0 ? -y : y
}

/** a·x + b·y + c·z, with float32 factors. */
const sum3 = (a: number, x: number, b: number, y: number, c: number, z: number): number =>
  f(f(f(f(a) * x) + f(f(b) * y)) + f(f(c) * z))
const cube = (v: number): number => f(f(v * v) * v)

/** Linear sRGB to Oklab (L, a, b). */
export function oklabOf(r: number, g: number, b: number): Rgb {
  const l = cubeRoot(sum3(0.4122214708, r, 0.5363325363, g, 0.0514459929, b))
  const m = cubeRoot(sum3(0.2119034982, r, 0.6806995451, g, 0.1073969566, b))
  const s = cubeRoot(sum3(0.0883024619, r, 0.2817188376, g, 0.6299787005, b))
  return [
    sum3(0.2104542553, l, 0.793617785, m, -0.0040720468, s),
    sum3(1.9779984951, l, -2.428592205, m, 0.4505937099, s),
    sum3(0.0259040371, l, 0.7827717662, m, -0.808675766, s),
  ]
}

/** Oklab to linear sRGB; may leave 0–1 for colours outside the gamut. */
export function linearOf(L: number, a: number, b: number): Rgb {
  const l = cube(sum3(1, L, 0.3963377774, a, 0.2158037573, b))
  const m = cube(sum3(1, L, -0.1055613458, a, -0.0638541728, b))
  const s = cube(sum3(1, L, -0.0894841775, a, -1.291485548, b))
  return [
    sum3(4.0767416621, l, -3.3077115913, m, 0.2309699292, s),
    sum3(-1.2684380046, l, 2.6097574011, m, -0.3413193965, s),
    sum3(-0.0041960863, l, -0.7034186147, m, 1.707614701, s),
  ]
}

/** How tones are changed; hue in turns, the others as factors but for brightness, which is added. */
export interface ToneChange {
  readonly hue: number
  readonly saturation: number
  readonly brightness: number
  readonly contrast: number
}

/** (v − ½) · contrast + ½ + brightness, the middle being ½ in lightness and in grey. */
const changedLightness = (v: number, contrast: number, brightness: number): number =>
  f(f(f(f(v - 0.5) * contrast) + 0.5) + brightness)

/** A colour's or a grey's tones changed, as far as the mask says. */
export function changeTones(source: Field, mask: Field | null, out: Field, rows: Rows, change: ToneChange): void {
  const [contrast, brightness] = [f(change.contrast), f(change.brightness)]
  const cos = f(cosTurns(change.hue) * change.saturation)
  const sin = f(sinTurns(change.hue) * change.saturation)
  const isGrey = out.planes.length === 1
  const twin = simd()
  if (twin) {
    const from = source.planes.map((plane) => [source, plane] as const)
    const inputs = mask ? [...from, [mask, mask.planes[0]!] as const] : from
    const outputs = out.planes.map((plane) => [out, plane] as const)
    return twin.runs(rows, out.width, inputs, outputs, (count, at, to) => {
      const weights = mask ? at.at(-1)! : 0
      if (isGrey) twin.assembly.changeGrey(at[0]!, weights, to[0]!, count, contrast, brightness)
      else
        twin.assembly.changeTones(
          at[0]!,
          at[1]!,
          at[2]!,
          weights,
          to[0]!,
          to[1]!,
          to[2]!,
          count,
          cos,
          sin,
          contrast,
          brightness,
        )
    })
  }
  const toned = (r: number, g: number, b: number): Rgb => {
    const [L, x, y] = oklabOf(r, g, b)
    return linearOf(changedLightness(L, contrast, brightness), f(f(x * cos) - f(y * sin)), f(f(x * sin) + f(y * cos)))
  }
  const own: number[] = []
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [s, o, m] = [rowStart(source, y), rowStart(out, y), mask ? rowStart(mask, y) : 0]
    for (let x = 0; x < out.width; x++) {
      source.planes.forEach((plane, p) => (own[p] = plane[s + x]!))
      const changed = isGrey ? [changedLightness(own[0]!, contrast, brightness)] : toned(own[0]!, own[1]!, own[2]!)
      const w = mask ? weightOf(mask.planes[0]![m + x]!, 1) : 1
      out.planes.forEach((plane, p) => (plane[o + x] = mixBounded(own[p]!, changed[p]!, w)))
    }
  }
}

/** What is looked for in a colour mask: a colour in linear light, and how much of the difference in lightness counts. */
export interface Near {
  readonly centre: Rgb
  readonly lightness: number
  readonly tolerance: number
  readonly softness: number
}

/**
 * How far colours are off in Oklab, and a mask of those within the tolerance. Range of the distance: from 0; black to white
 * is 1.
 */
export function maskColours(source: Field, out: { mask?: Field; distance?: Field }, rows: Rows, near: Near): void {
  const { centre, tolerance, softness } = near
  const lightness = f(near.lightness)
  const [L0, a0, b0] = oklabOf(f(centre[0]), f(centre[1]), f(centre[2]))
  const [low, high] = [tolerance - softness / 2, tolerance + softness / 2]
  const twin = simd()
  const some = out.mask ?? out.distance
  if (!some) return
  if (twin)
    return twin.scratch(() => {
      const inputs = source.planes.map((plane) => [source, plane] as const)
      const outputs = [out.mask, out.distance].flatMap((field) => (field ? [[field, field.planes[0]!] as const] : []))
      twin.runs(rows, some.width, inputs, outputs, (count, [r, g, b], to) => {
        const mask = out.mask ? to[0]! : 0
        const distance = out.distance ? to.at(-1)! : 0
        twin.assembly.maskColours(r!, g!, b!, mask, distance, count, L0, a0, b0, lightness, low, high)
      })
    })
  const [red, green, blue] = source.planes as [Float32Array, Float32Array, Float32Array]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const s = rowStart(source, y)
    for (let x = 0; x < some.width; x++) {
      const [L, a, b] = oklabOf(red[s + x]!, green[s + x]!, blue[s + x]!)
      const [dL, da, db] = [f(f(L - L0) * lightness), f(a - a0), f(b - b0)]
      const off = f(Math.sqrt(f(f(f(dL * dL) + f(da * da)) + f(db * db))))
      const distance = off > DISTANCE_LIMIT ? DISTANCE_LIMIT : off
      if (out.mask) out.mask.planes[0]![rowStart(out.mask, y) + x] = f(1 - smoothstep(low, high, distance))
      if (out.distance) out.distance.planes[0]![rowStart(out.distance, y) + x] = distance
    }
  }
}

/** Far beyond every colour; the squares of huge ones are no numbers. */
const DISTANCE_LIMIT = f(1e18)
