import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import type { Rows } from './rows'
import { simd } from './simd'

const f = Math.fround

/** Twins: core/kernels/assembly/specular.ts. */

/** What a plain non-metal reflects straight on. Source: glTF 2.0, appendix B.3.4 (index of refraction 1.5). */
export const NON_METAL = f(0.04)
/** Of less than this nothing is left for diffuse light. */
const NOTHING = f(1e-6)

/** mix(a, b, w), and b itself at 1. */
const mix = (a: number, b: number, w: number): number => (w === 1 ? b : f(a + f(f(b - a) * w)))

/**
 * Base colour and metallic as diffuse and specular colours, in linear light. specular = mix(0.04, base, metallic); diffuse =
 * base · (1 − metallic) · 0.96 / (1 − the largest of specular), black where that leaves nothing. Metallic is held to 0–1.
 * Source: glTF extension KHR_materials_pbrSpecularGlossiness, its appendix on conversions.
 */
export function splitSpecular(
  colour: Field,
  metallic: Field,
  out: { diffuse?: Field; specular?: Field },
  rows: Rows,
): void {
  const { diffuse, specular } = out
  const some = diffuse ?? specular
  if (!some) return
  const twin = simd()
  if (twin) {
    const inputs = [...colour.planes.map((plane) => [colour, plane] as const), [metallic, metallic.planes[0]!] as const]
    const outputs = [diffuse, specular].flatMap((one) => one?.planes.map((plane) => [one, plane] as const) ?? [])
    return twin.runs(rows, some.width, inputs, outputs, (count, [r, g, b, m], to) => {
      const [x = 0, y = 0, z = 0] = diffuse ? to : []
      const [u = 0, v = 0, w = 0] = specular ? to.slice(-3) : []
      twin.assembly.splitSpecular(r!, g!, b!, m!, x, y, z, u, v, w, count)
    })
  }
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [c, m] = [rowStart(colour, y), rowStart(metallic, y)]
    for (let x = 0; x < some.width; x++) {
      const metal = held(metallic.planes[0]![m + x]!)
      const base = colour.planes.map((plane) => plane[c + x]!)
      const bright = base.map((v) => mix(NON_METAL, v, metal))
      const left = f(1 - largest(bright))
      const share = left < NOTHING ? 0 : f(f(f(1 - metal) * f(1 - NON_METAL)) / left)
      diffuse?.planes.forEach((plane, p) => (plane[rowStart(diffuse, y) + x] = bounded(f(base[p]! * share))))
      specular?.planes.forEach((plane, p) => (plane[rowStart(specular, y) + x] = bounded(bright[p]!)))
    }
  }
}

/** How a specular colour is tinted. */
export interface TintParams {
  /** Times the complement of non-metals. */
  readonly darken: number
  /** Times the colour of metals. */
  readonly brighten: number
  /** How much of what faces up is taken from non-metals, 0–1. */
  readonly even: number
}

/** What a specular colour is made of; greys are held to 0–1, but for `level`. */
export interface TintInputs {
  readonly colour: Field
  readonly metallic: Field
  /** Multiplies how bright the complement of non-metals is. */
  readonly level: Field
  /** How far the surface faces up. */
  readonly upward: Field
  /** Where highlights are painted: 1 is white. */
  readonly highlights: Field
}

/**
 * A specular colour as older renderers want it, on sRGB-encoded values. Of non-metals: the complement of their colour (hue turned
 * by half, lightness and saturation as they are: largest + smallest − v), times `darken`, `level` and 1 − even · upward, so that light
 * from above that is painted into the colour does not show twice. Of metals: their own colour times `brighten`, less where the largest
 * would go beyond 1, so that its hue stays. Then painted highlights: v + highlights · (1 − v). Common practice.
 */
export function tintSpecular(
  { colour, metallic, level, upward, highlights }: TintInputs,
  out: Field,
  rows: Rows,
  { darken, brighten, even }: TintParams,
): void {
  const [dark, bright, flat] = [f(darken), f(brighten), f(even)]
  const greys = [metallic, level, upward, highlights]
  const twin = simd()
  if (twin) {
    const inputs = [colour, ...greys].flatMap((field) => field.planes.map((plane) => [field, plane] as const))
    const outputs = out.planes.map((plane) => [out, plane] as const)
    return twin.runs(rows, out.width, inputs, outputs, (count, [r, g, b, m, l, u, h], to) =>
      twin.assembly.tintSpecular(r!, g!, b!, m!, l!, u!, h!, to[0]!, to[1]!, to[2]!, count, dark, bright, flat),
    )
  }
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [c, o] = [rowStart(colour, y), rowStart(out, y)]
    const [m, l, u, h] = greys.map((field) => rowStart(field, y)) as [number, number, number, number]
    for (let x = 0; x < out.width; x++) {
      const metal = held(metallic.planes[0]![m + x]!)
      const painted = held(highlights.planes[0]![h + x]!)
      const share = f(1 - f(flat * held(upward.planes[0]![u + x]!)))
      const plain = f(f(dark * level.planes[0]![l + x]!) * share)
      const own = colour.planes.map((plane) => held(plane[c + x]!))
      const most = largest(own)
      const both = f(most + f(1 - largest(own.map((v) => f(1 - v)))))
      const room = f(1 / (most < NOTHING ? NOTHING : most))
      const times = bright < room ? bright : room
      out.planes.forEach((plane, p) => {
        const tint = mix(f(f(both - own[p]!) * plain), f(own[p]! * times), metal)
        plane[o + x] = bounded(f(tint + f(painted * f(1 - tint))))
      })
    }
  }
}

/** How bright an encoded colour is. Source: Rec. ITU-R BT.709, item 3.2. */
export const BRIGHTNESS = [f(0.2126), f(0.7152), f(0.0722)] as const

/**
 * Highlights painted into the diffuse colour, for renderers that show none of their own, on sRGB-encoded values:
 * diffuse + amount · grey of the specular colour · upward, held to 0–1. Common practice.
 */
export function foldHighlights(
  diffuse: Field,
  specular: Field,
  amount: Field,
  upward: Field,
  out: Field,
  rows: Rows,
): void {
  const twin = simd()
  if (twin) {
    const inputs = [diffuse, specular, amount, upward].flatMap((field) =>
      field.planes.map((plane) => [field, plane] as const),
    )
    const outputs = out.planes.map((plane) => [out, plane] as const)
    return twin.runs(rows, out.width, inputs, outputs, (count, [r, g, b, x, y, z, a, u], to) =>
      twin.assembly.foldHighlights(r!, g!, b!, x!, y!, z!, a!, u!, to[0]!, to[1]!, to[2]!, count),
    )
  }
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [d, s, a, u, o] = [diffuse, specular, amount, upward, out].map((field) => rowStart(field, y)) as number[]
    for (let x = 0; x < out.width; x++) {
      const [r, g, b] = specular.planes.map((plane, p) => f(held(plane[s! + x]!) * BRIGHTNESS[p]!)) as [
        number,
        number,
        number,
      ]
      const added = f(f(f(f(r + g) + b) * amount.planes[0]![a! + x]!) * held(upward.planes[0]![u! + x]!))
      out.planes.forEach((plane, p) => (plane[o! + x] = held(f(diffuse.planes[p]![d! + x]! + added))))
    }
  }
}

/** Held to 0–1. */
const held = (v: number): number => (v < 1 ? (v > 0 ? v : 0) : 1)

const largest = ([a, b, c]: readonly number[]): number => {
  const most = a! < b! ? b! : a!
  return most < c! ? c! : most
}

/** How bright a colour seems, by the weights that the conversion is stated with. */
const seems = (r: number, g: number, b: number): number => Math.sqrt(0.299 * r * r + 0.587 * g * g + 0.114 * b * b)

/** Metallic of a surface that seems so bright in diffuse and in specular: the root of a quadratic, 0 where nothing metallic is told. */
function metallicOf(diffuse: number, specular: number, left: number): number {
  if (specular < NON_METAL) return 0
  const a = NON_METAL
  const b = (diffuse * left) / (1 - NON_METAL) + specular - 2 * NON_METAL
  const c = NON_METAL - specular
  return held((-b + Math.sqrt(Math.max(0, b * b - 4 * a * c))) / (2 * a))
}

/**
 * Diffuse and specular colours as base colour and metallic, in linear light: metallic solved from how bright both seem, base colour mixed
 * by the square of it from what each tells. Source: glTF extension KHR_materials_pbrSpecularGlossiness, its appendix on conversions.
 */
export function joinSpecular(
  diffuse: Field,
  specular: Field,
  { colour, metallic }: { colour?: Field; metallic?: Field },
  rows: Rows,
): void {
  const some = colour ?? metallic
  if (!some) return
  const [dr, dg, db] = diffuse.planes as Triple
  const [sr, sg, sb] = specular.planes as Triple
  const [cr, cg, cb] = (colour?.planes ?? []) as Partial<Triple>
  const metals = metallic?.planes[0]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [d, s] = [rowStart(diffuse, y), rowStart(specular, y)]
    const [c, m] = [colour ? rowStart(colour, y) : 0, metallic ? rowStart(metallic, y) : 0]
    for (let x = 0; x < some.width; x++) {
      const r = held(dr[d + x]!)
      const g = held(dg[d + x]!)
      const b = held(db[d + x]!)
      const u = held(sr[s + x]!)
      const v = held(sg[s + x]!)
      const w = held(sb[s + x]!)
      const most = u < v ? v : u
      const left = 1 - (most < w ? w : most)
      const metal = metallicOf(seems(r, g, b), seems(u, v, w), left)
      if (metals) metals[m + x] = bounded(metal)
      if (!cr || !cg || !cb) continue
      cr[c + x] = baseOf(r, u, left, metal)
      cg[c + x] = baseOf(g, v, left, metal)
      cb[c + x] = baseOf(b, w, left, metal)
    }
  }
}

type Triple = [Float32Array, Float32Array, Float32Array]
/** Of less than this nothing is divided by. */
const SMALLEST = 1e-6

/** Base colour by what diffuse and specular tell of it. */
function baseOf(scattered: number, reflected: number, left: number, metal: number): number {
  const fromDiffuse = (scattered * left) / (1 - NON_METAL) / Math.max(1 - metal, SMALLEST)
  const fromSpecular = (reflected - NON_METAL * (1 - metal)) / Math.max(metal, SMALLEST)
  const weight = metal * metal
  return bounded(held(fromDiffuse * (1 - weight) + fromSpecular * weight))
}
