import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { weightOf } from './blend-fields'
import { cosTurns, sinTurns } from '../elementary'
import type { Rows } from './rows'
import type { PlaneOf, Simd } from './simd'
import { simd } from './simd'
import type { SlopeMethod } from './slopes'
import { SLOPE_WEIGHTS, slopeReader } from './slopes'

const f = Math.fround

/**
 * Unit normals of a height field, +Y towards row 0: n = normalise(−∂h/∂u, ∂h/∂v, 1) with v down.
 * Units: `slopeScale` turns a difference of one grey unit a texel into metres a metre.
 */
export function normalsOfHeight(height: Field, out: Field, rows: Rows, slopeScale: number, method: SlopeMethod): void {
  const twin = simd()
  if (twin) return twin.scratch(() => normalsBySimd(twin, height, out, rows, slopeScale, method))
  const slopeAt = slopeReader(height, method)
  const slope = new Float64Array(2)
  const [nx, ny, nz] = out.planes as [Float32Array, Float32Array, Float32Array]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(out, y)
    for (let x = 0; x < out.width; x++) {
      slopeAt(x, y, slope)
      const dx = -slope[0]! * slopeScale
      const dy = slope[1]! * slopeScale
      const scale = 1 / Math.sqrt(dx * dx + dy * dy + 1)
      nx[start + x] = f(dx * scale) + 0
      ny[start + x] = f(dy * scale) + 0
      nz[start + x] = scale
    }
  }
}

function normalsBySimd(
  twin: Simd,
  height: Field,
  out: Field,
  rows: Rows,
  slopeScale: number,
  method: SlopeMethod,
): void {
  const { width } = out
  const [middle, outer] = SLOPE_WEIGHTS[method]
  const rooms = [0, 1, 2].map(() => twin.take(width))
  const made = out.planes.map(() => twin.take(width)) as [number, number, number]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [above, here, below] = rooms.map((room, i) =>
      twin.rowsOf(height, height.planes[0]!, y + i - 1, y + i, room),
    ) as [number, number, number]
    twin.assembly.normalsRow(above, here, below, ...made, width, slopeScale, middle, outer)
    made.forEach((at, p) => twin.copyOut(at, out, out.planes[p]!, y, y + 1))
  }
}

/** In the order of their numbers in core/kernels/assembly/normals.ts. */
export const NORMAL_METHODS = ['reoriented', 'whiteout', 'add', 'replace'] as const
export type NormalMethod = (typeof NORMAL_METHODS)[number]

type Vec = Float64Array

/** Detail normal laid onto a base normal; not yet of unit length. */
const COMBINE: Record<NormalMethod, (b: Vec, d: Vec, out: Vec) => void> = {
  // C. Barré-Brisebois, S. Hill, "Blending in Detail", 2012: reoriented normal mapping.
  reoriented: (b, d, out) => {
    const tz = b[2]! + 1
    if (tz < 1e-9) {
      out.set(d)
      return
    }
    const dot = (-b[0]! * d[0]! - b[1]! * d[1]! + tz * d[2]!) / tz
    out[0] = b[0]! * dot + d[0]!
    out[1] = b[1]! * dot + d[1]!
    out[2] = tz * dot - d[2]!
  },
  // The same paper's survey: whiteout and linear blending.
  whiteout: (b, d, out) => {
    out[0] = b[0]! + d[0]!
    out[1] = b[1]! + d[1]!
    out[2] = b[2]! * d[2]!
  },
  add: (b, d, out) => {
    for (let i = 0; i < 3; i++) out[i] = b[i]! + d[i]!
  },
  replace: (_, d, out) => out.set(d),
}

/** To unit length; straight up where there is none. */
function normalise(v: Vec): void {
  const length = Math.sqrt(v[0]! * v[0]! + v[1]! * v[1]! + v[2]! * v[2]!)
  if (!(length > 1e-20)) {
    v[0] = 0
    v[1] = 0
    v[2] = 1
    return
  }
  for (let i = 0; i < 3; i++) v[i] = v[i]! / length
}

/** out = normalise(mix(base, combined, mask · amount)); inputs are brought to unit length first. */
export function combineNormalFields(
  base: Field,
  detail: Field,
  mask: Field | null,
  out: Field,
  rows: Rows,
  method: NormalMethod,
  amount: number,
): void {
  const twin = simd()
  if (twin) {
    const masks = mask ? [[mask, mask.planes[0]!] as const] : []
    const inputs = [...planesOf(base), ...planesOf(detail), ...masks]
    const number = NORMAL_METHODS.indexOf(method)
    return twin.runs(rows, out.width, inputs, planesOf(out), (count, at, to) =>
      twin.scratch(() =>
        twin.assembly.combineNormals(
          twin.offsets(at.slice(0, 3)),
          twin.offsets(at.slice(3, 6)),
          at[6] ?? 0,
          twin.offsets(to),
          count,
          number,
          amount,
        ),
      ),
    )
  }
  const combine = COMBINE[method]
  const b = new Float64Array(3)
  const d = new Float64Array(3)
  const c = new Float64Array(3)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const b0 = rowStart(base, y)
    const d0 = rowStart(detail, y)
    const o0 = rowStart(out, y)
    const m0 = mask ? rowStart(mask, y) : 0
    for (let x = 0; x < out.width; x++) {
      for (let i = 0; i < 3; i++) {
        b[i] = base.planes[i]![b0 + x]!
        d[i] = detail.planes[i]![d0 + x]!
      }
      normalise(b)
      normalise(d)
      combine(b, d, c)
      normalise(c)
      const w = mask ? weightOf(mask.planes[0]![m0 + x]!, amount) : amount
      for (let i = 0; i < 3; i++) c[i] = b[i]! + (c[i]! - b[i]!) * w
      normalise(c)
      for (let i = 0; i < 3; i++) out.planes[i]![o0 + x] = f(c[i]!) + 0
    }
  }
}

/** Takes base normals out of what was laid onto them by "reoriented": what it was before. Both are of unit length. */
export function withoutBase(base: Field, result: Field, rows: Rows): void {
  const b = new Float64Array(3)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [from, to] = [rowStart(base, y), rowStart(result, y)]
    for (let x = 0; x < result.width; x++) {
      for (let i = 0; i < 3; i++) b[i] = base.planes[i]![from + x]!
      normalise(b)
      const tz = b[2]! + 1
      if (tz < 1e-9) continue
      const [rx, ry, rz] = result.planes.map((plane) => plane[to + x]!) as [number, number, number]
      // The half turn that takes up to the base and back, after it the one about up.
      const dot = (b[0]! * rx + b[1]! * ry + tz * rz) / tz
      result.planes[0]![to + x] = f(rx - b[0]! * dot) + 0
      result.planes[1]![to + x] = f(ry - b[1]! * dot) + 0
      result.planes[2]![to + x] = f(tz * dot - rz) + 0
    }
  }
}

const planesOf = (field: Field): PlaneOf[] => field.planes.map((plane) => [field, plane] as const)

/** How normals are changed: slopes scaled and turned counter-clockwise, green flipped before. */
export interface NormalChange {
  readonly strength: number
  /** Turns. */
  readonly turn: number
  readonly flipGreen: boolean
}

/** Slopes scaled (as far as the mask says) and turned, then brought to unit length; straight up where there is none. */
export function adjustNormals(source: Field, mask: Field | null, out: Field, rows: Rows, change: NormalChange): void {
  const [cos, sin] = [cosTurns(change.turn), sinTurns(change.turn)]
  const twin = simd()
  if (twin) {
    const inputs = [...planesOf(source), ...(mask ? [[mask, mask.planes[0]!] as const] : [])]
    return twin.runs(rows, out.width, inputs, planesOf(out), (count, at, to) =>
      twin.scratch(() =>
        twin.assembly.adjustNormals(
          twin.offsets(at.slice(0, 3)),
          at[3] ?? 0,
          twin.offsets(to),
          count,
          cos,
          sin,
          change.strength,
          change.flipGreen,
        ),
      ),
    )
  }
  const [sx, sy, sz] = source.planes as [Float32Array, Float32Array, Float32Array]
  const [ox, oy, oz] = out.planes as [Float32Array, Float32Array, Float32Array]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const s = rowStart(source, y)
    const o = rowStart(out, y)
    const m = mask ? rowStart(mask, y) : 0
    for (let x = 0; x < out.width; x++) {
      const strength = change.strength * (mask ? weightOf(mask.planes[0]![m + x]!, 1) : 1)
      const green = change.flipGreen ? -sy[s + x]! : sy[s + x]!
      const nx = (sx[s + x]! * cos - green * sin) * strength
      const ny = (sx[s + x]! * sin + green * cos) * strength
      const nz = sz[s + x]!
      const length = Math.sqrt(nx * nx + ny * ny + nz * nz)
      const known = length > 1e-20
      ox[o + x] = known ? f(nx / length) + 0 : 0
      oy[o + x] = known ? f(ny / length) + 0 : 0
      oz[o + x] = known ? f(nz / length) + 0 : 1
    }
  }
}
