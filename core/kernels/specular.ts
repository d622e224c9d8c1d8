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

/**
 * A specular colour as older renderers want it, on sRGB-encoded values: of non-metals the complement of their colour (hue turned
 * by half, lightness and saturation as they are: largest + smallest − v), times `darken`; of metals their own colour times
 * `brighten`, less where the largest would go beyond 1, so that its hue stays. Common practice.
 */
export function tintSpecular(
  colour: Field,
  metallic: Field,
  out: Field,
  rows: Rows,
  { darken, brighten }: { readonly darken: number; readonly brighten: number },
): void {
  const [dark, bright] = [f(darken), f(brighten)]
  const twin = simd()
  if (twin) {
    const inputs = [...colour.planes.map((plane) => [colour, plane] as const), [metallic, metallic.planes[0]!] as const]
    const outputs = out.planes.map((plane) => [out, plane] as const)
    return twin.runs(rows, out.width, inputs, outputs, (count, [r, g, b, m], to) =>
      twin.assembly.tintSpecular(r!, g!, b!, m!, to[0]!, to[1]!, to[2]!, count, dark, bright),
    )
  }
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [c, m, o] = [rowStart(colour, y), rowStart(metallic, y), rowStart(out, y)]
    for (let x = 0; x < out.width; x++) {
      const metal = held(metallic.planes[0]![m + x]!)
      const own = colour.planes.map((plane) => held(plane[c + x]!))
      const most = largest(own)
      const both = f(most + f(1 - largest(own.map((v) => f(1 - v)))))
      const room = f(1 / (most < NOTHING ? NOTHING : most))
      const times = bright < room ? bright : room
      out.planes.forEach((plane, p) => {
        plane[o + x] = bounded(mix(f(f(both - own[p]!) * dark), f(own[p]! * times), metal))
      })
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
const seems = ([r, g, b]: readonly number[]): number => Math.sqrt(0.299 * r! * r! + 0.587 * g! * g! + 0.114 * b! * b!)

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
  const epsilon = 1e-6
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [d, s] = [rowStart(diffuse, y), rowStart(specular, y)]
    for (let x = 0; x < some.width; x++) {
      const scattered = diffuse.planes.map((plane) => held(plane[d + x]!))
      const reflected = specular.planes.map((plane) => held(plane[s + x]!))
      const left = 1 - largest(reflected)
      const metal = metallicOf(seems(scattered), seems(reflected), left)
      if (metallic) metallic.planes[0]![rowStart(metallic, y) + x] = bounded(metal)
      colour?.planes.forEach((plane, p) => {
        const fromDiffuse = (scattered[p]! * left) / (1 - NON_METAL) / Math.max(1 - metal, epsilon)
        const fromSpecular = (reflected[p]! - NON_METAL * (1 - metal)) / Math.max(metal, epsilon)
        const weight = metal * metal
        plane[rowStart(colour, y) + x] = bounded(held(fromDiffuse * (1 - weight) + fromSpecular * weight))
      })
    }
  }
}
