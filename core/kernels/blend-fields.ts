import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import type { BlendMode } from './blend'
import { NON_SEPARABLE, SEPARABLE, greyForm, unitTriple } from './blend'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { pieceRows, simd } from './simd'

const f = Math.fround

/** Weight of a texel: mask clamped to 0–1, times amount. */
export const weightOf = (mask: number, amount: number): number => f((mask < 0 ? 0 : mask > 1 ? 1 : mask) * amount)

/**
 * out = base + (B(base, source) − base) · mask · amount, plane by plane.
 * Shape: all fields alike; `mask` grey or null for 1 everywhere. A triple mode on grey acts as on equal channels.
 * Weights 0 and 1 give base and B exactly.
 */
export function blendFields(
  base: Field,
  source: Field,
  mask: Field | null,
  out: Field,
  rows: Rows,
  mode: BlendMode,
  amount: number,
): void {
  const triple = out.planes.length === 3 ? NON_SEPARABLE[mode] : undefined
  const simdMode = SIMD_MODES.indexOf(mode)
  const twin = simdMode < 0 && !triple ? null : simd()
  if (twin && triple) return twin.scratch(() => coloursBySimd(twin, base, source, mask, out, rows, mode, amount))
  if (twin) return twin.scratch(() => bySimd(twin, base, source, mask, out, rows, simdMode, amount))
  const separable = SEPARABLE[mode] ?? greyForm(mode)
  const maskPlane = mask?.planes[0]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const b0 = rowStart(base, y)
    const s0 = rowStart(source, y)
    const o0 = rowStart(out, y)
    const m0 = mask ? rowStart(mask, y) : 0
    if (triple) {
      const [br, bg, bb] = base.planes as [Float32Array, Float32Array, Float32Array]
      const [sr, sg, sb] = source.planes as [Float32Array, Float32Array, Float32Array]
      for (let x = 0; x < out.width; x++) {
        const w = maskPlane ? weightOf(maskPlane[m0 + x]!, amount) : amount
        const b = b0 + x
        const s = s0 + x
        const mixed = triple(unitTriple(br[b]!, bg[b]!, bb[b]!), unitTriple(sr[s]!, sg[s]!, sb[s]!))
        for (let p = 0; p < 3; p++) out.planes[p]![o0 + x] = mixBounded(base.planes[p]![b]!, f(mixed[p]!), w)
      }
      continue
    }
    for (let p = 0; p < out.planes.length; p++) {
      const below = base.planes[p]!
      const above = source.planes[p]!
      const target = out.planes[p]!
      for (let x = 0; x < out.width; x++) {
        const w = maskPlane ? weightOf(maskPlane[m0 + x]!, amount) : amount
        const b = below[b0 + x]!
        target[o0 + x] = mixBounded(b, separable(b, above[s0 + x]!), w)
      }
    }
  }
}

/** The modes that core/kernels/assembly/blend.ts knows, by their numbers there. */
const SIMD_MODES: readonly BlendMode[] = [
  'normal',
  'multiply',
  'screen',
  'overlay',
  'darken',
  'lighten',
  'colour-dodge',
  'colour-burn',
  'hard-light',
  'soft-light',
  'difference',
  'exclusion',
  'add',
  'subtract',
  'signed-add',
  'divide',
  'minimum',
  'maximum',
]

function bySimd(
  twin: Simd,
  base: Field,
  source: Field,
  mask: Field | null,
  out: Field,
  rows: Rows,
  mode: number,
  amount: number,
): void {
  const { width } = out
  const piece = pieceRows(width)
  const rooms = Array.from({ length: 4 }, () => twin.take(piece * width)) as [number, number, number, number]
  const [belowRoom, aboveRoom, weightsRoom, room] = rooms
  for (let y = rows.from; y < rows.to; y += piece) {
    rows.check()
    const to = Math.min(rows.to, y + piece)
    const weights = mask ? twin.rowsOf(mask, mask.planes[0]!, y, to, weightsRoom) : 0
    out.planes.forEach((plane, p) => {
      const below = twin.rowsOf(base, base.planes[p]!, y, to, belowRoom)
      const above = twin.rowsOf(source, source.planes[p]!, y, to, aboveRoom)
      const result = twin.target(out, plane, y, to, room)
      twin.assembly.blend(mode, below, above, weights, result, (to - y) * width, amount)
      twin.written(result, out, plane, y, to, room)
    })
  }
}

/** The modes that core/kernels/assembly/blend-colours.ts knows, by their numbers there. */
const COLOUR_MODES: readonly BlendMode[] = ['hue', 'saturation', 'colour', 'luminosity']

function coloursBySimd(
  twin: Simd,
  base: Field,
  source: Field,
  mask: Field | null,
  out: Field,
  rows: Rows,
  mode: BlendMode,
  amount: number,
): void {
  const of = (field: Field) => field.planes.map((plane) => [field, plane] as const)
  const inputs = [...of(base), ...of(source), ...(mask ? of(mask) : [])]
  const [baseAt, sourceAt, outAt] = [twin.take(3), twin.take(3), twin.take(3)]
  const number = COLOUR_MODES.indexOf(mode)
  twin.runs(rows, out.width, inputs, of(out), (count, from, to) => {
    twin.ints(baseAt, 3).set(from.slice(0, 3))
    twin.ints(sourceAt, 3).set(from.slice(3, 6))
    twin.ints(outAt, 3).set(to)
    twin.assembly.blendColours(number, baseAt, sourceAt, from[6] ?? 0, outAt, count, f(amount))
  })
}

/** b + (m − b)·w, exact at w = 0 and w = 1. */
export function mixBounded(b: number, m: number, w: number): number {
  if (w === 0) return b
  if (w === 1) return bounded(m)
  return bounded(f(b + f(f(m - b) * w)))
}
