import { hashInto, unitFloat } from '../random'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd } from './simd'

const f = Math.fround

/** Lattices finer than this hold no detail at any size we evaluate, and are left out. */
const FINEST = 65536

export interface NoiseShape {
  /** Lattice cells across and down; whole, so that the field tiles. */
  readonly cells: readonly [number, number]
  readonly octaves: number
  /** Whole factor between octaves' lattices. */
  readonly lacunarity: number
  /** Factor between octaves' amplitudes. */
  readonly gain: number
  readonly style: 'plain' | 'billow' | 'ridged'
  /** Third lattice coordinate, and the whole number of cells after which it repeats. */
  readonly depth: number
  readonly depthPeriod: number
  /** Whether all twelve gradients are equally frequent; else four of them are met twice as often, as in the paper's table. */
  readonly even: boolean
}

/**
 * The twelve gradients, to the edges of a cube, padded to sixteen by repeating four as in the paper's table. The four make a
 * plane of noise 1.2 times stronger down than across.
 */
const GX = Float32Array.of(1, -1, 1, -1, 1, -1, 1, -1, 0, 0, 0, 0, 1, 0, -1, 0)
const GY = Float32Array.of(1, 1, -1, -1, 0, 0, 0, 0, 1, -1, 1, -1, 1, -1, 1, -1)
const GZ = Float32Array.of(0, 0, 0, 0, 1, 1, -1, -1, 1, 1, -1, -1, 0, 1, 0, -1)

/** The gradient that a hash picks: evenly among the first twelve, or one of all sixteen. */
const gradientOf = (hash: number, even: boolean): number =>
  even ? Math.floor((hash >>> 0) * (12 / 4294967296)) : hash >>> 28

/** Index of the gradient at a lattice point (already wrapped): 0–11 where even, else 0–15. */
export function latticeGradient(seed: number, ix: number, iy: number, iz: number, even: boolean): number {
  return gradientOf(hashInto(hashInto(hashInto(seed, iz), iy), ix), even)
}

/** Seed of one octave's lattice. */
export const octaveSeed = (seed: number, octave: number): number => hashInto(seed, 0x51ed27 + octave)

/** 6t⁵ − 15t⁴ + 10t³ in float32 steps. Source: K. Perlin, "Improving Noise", SIGGRAPH 2002. */
export function quinticFade(t: number): number {
  return f(f(f(t * t) * t) * f(f(t * f(f(t * 6) - 15)) + 10))
}

/**
 * Fractal gradient noise: 0.5 + 0.5 · Σ gainⁱ·nᵢ / Σ gainⁱ, where nᵢ is Perlin noise on a lattice of
 * cells · lacunarityⁱ, plain n, billow 2|n| − 1, or ridged 1 − 2|n|.
 * Shape: one plane of `width` values a row, written from `start` on for each row of `rows`.
 * Range: within 0–1 but for rare gradients' overshoot below 4 %.
 * Source: K. Perlin, "Improving Noise", SIGGRAPH 2002 (fade, gradients); the lattice hash is ours (random.ts).
 *
 * Along a row inside one lattice cell n = a·fx + b + fade(fx)·(da·fx + db): the eight corners' gradients are gathered
 * into two numbers a lattice column, once a row. Measured 8 times faster than eight corners a texel.
 */
export function fractalNoise(
  shape: NoiseShape,
  seed: number,
  size: { width: number; height: number },
  rows: Rows,
  out: Float32Array,
  startOf: (y: number) => number,
): void {
  const { width, height } = size
  const plans: OctavePlan[] = []
  let amplitude = 1
  let total = 0
  let lattice = 1
  for (let octave = 0; octave < shape.octaves; octave++) {
    const plan = planOctave(shape, lattice, octaveSeed(seed, octave), width, amplitude)
    if (!plan) break
    plans.push(plan)
    total = f(total + amplitude)
    amplitude = f(amplitude * shape.gain)
    lattice *= shape.lacunarity
  }
  const scale = f(0.5 / total)
  // Octaves of many more columns than texels are left to the definition; they are the last ones.
  const few = plans.findIndex(({ columns }) => columns > width * ALL_COLUMNS)
  const inLanes = few < 0 ? plans.length : few
  const twin = width % 4 === 0 && inLanes > 0 ? simd() : null
  const sumOf = (sum: Float32Array, row: number, from: number): void =>
    plans.slice(from).forEach((plan) => addOctave(plan, shape.style, row, height, sum))
  const byRows = (makeRow: (row: number) => Float32Array, isWhole: boolean): void => {
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const sum = makeRow(((y % height) + height) % height)
      const start = startOf(y)
      if (isWhole) out.set(sum, start)
      else for (let x = 0; x < width; x++) out[start + x] = f(0.5 + f(sum[x]! * scale))
    }
  }
  if (!twin) {
    const sum = new Float32Array(width)
    return byRows((row) => {
      sum.fill(0)
      sumOf(sum, row, 0)
      return sum
    }, false)
  }
  twin.scratch(() => {
    const at = twin.take(width)
    const plan = plansIn(twin, plans.slice(0, inLanes), shape.style, width)
    const sum = twin.floats(at, width)
    const isWhole = inLanes === plans.length
    byRows((row) => {
      twin.assembly.noiseRow(plan, inLanes, row, height, at, width, scale, isWhole)
      sumOf(sum, row, inLanes)
      return sum
    }, isWhole)
  })
}

/** Up to so many lattice columns a texel, hashing them all by the twin is cheaper than those met alone. */
const ALL_COLUMNS = 8

/** How a style is made of noise n: lift + sign · |n|; n itself where `sign` is 0. */
const STYLES = {
  plain: { lift: 0, sign: 0 },
  billow: { lift: -1, sign: 2 },
  ridged: { lift: 1, sign: -2 },
} as const

/** Words of an octave's plan in scratch memory; core/kernels/assembly/noise.ts tells which. */
const PLAN = 19

/** Writes what the twin reads of octaves to scratch memory. */
function plansIn(twin: Simd, plans: readonly OctavePlan[], style: NoiseShape['style'], width: number): number {
  const { lift, sign } = STYLES[style]
  // A lattice's row is made anew for each octave, so all use the same room: the column after the last, and whole vectors.
  const room = Math.max(...plans.map(({ columns }) => columns)) + 8
  const [a, b, corners] = [twin.take(room), twin.take(room), twin.take(4 * room)]
  const at = twin.take(PLAN * plans.length)
  plans.forEach((plan, i) => {
    const [columns, along, fade] = [twin.take(width), twin.take(width), twin.take(width)]
    twin.ints(columns, width).set(plan.column)
    twin.floats(along, width).set(plan.along)
    twin.floats(fade, width).set(plan.fade)
    const words = twin.ints(at + 4 * PLAN * i, PLAN)
    const numbers = twin.floats(at + 4 * PLAN * i, PLAN)
    words.set([columns, along, fade, a, b, corners, plan.columns, plan.rows, plan.even ? 1 : 0])
    numbers.set([plan.amplitude, lift], 9)
    words[11] = plan.planes.length
    plan.planes.forEach(({ iz, fz, weight }, k) => {
      words[12 + 3 * k] = hashInto(plan.seed, iz)
      numbers.set([fz, weight], 13 + 3 * k)
    })
    numbers[18] = sign
  })
  return at
}

interface OctavePlan {
  seed: number
  even: boolean
  amplitude: number
  columns: number
  rows: number
  /** Per texel: lattice column, position in the cell, and its fade. */
  column: Int32Array
  along: Float32Array
  fade: Float32Array
  /** The z planes that count, and their weights: one where depth falls on the lattice. */
  planes: { iz: number; fz: number; weight: number }[]
  /** The lattice row held in `near`; `far` is the next one. −1 before the first. */
  latticeRow: number
  near: Uint8Array[]
  far: Uint8Array[]
  /** False where lattice columns outnumber texels: hashing only those met is cheaper than whole tables. */
  tabled: boolean
}

function planOctave(
  shape: NoiseShape,
  scale: number,
  seed: number,
  width: number,
  amplitude: number,
): OctavePlan | null {
  const columns = shape.cells[0] * scale
  const rows = shape.cells[1] * scale
  if (Math.max(columns, rows) > FINEST) return null
  const column = new Int32Array(width)
  const along = new Float32Array(width)
  const fade = new Float32Array(width)
  for (let x = 0; x < width; x++) {
    const at = ((x + 0.5) * columns) / width
    column[x] = Math.floor(at)
    along[x] = at - column[x]!
    fade[x] = quinticFade(along[x]!)
  }
  const period = Math.max(1, Math.round(shape.depthPeriod * scale))
  const z = shape.depth * scale
  const iz = Math.floor(z)
  const fz = f(z - iz)
  const wrap = (i: number) => ((i % period) + period) % period
  const w = quinticFade(fz)
  const planes =
    fz === 0
      ? [{ iz: wrap(iz), fz, weight: 1 }]
      : [
          { iz: wrap(iz), fz, weight: f(1 - w) },
          { iz: wrap(iz + 1), fz: f(fz - 1), weight: w },
        ]
  const tabled = columns <= width
  const tables = () => planes.map(() => new Uint8Array(tabled ? columns : 0))
  const near = tables()
  const far = tables()
  return {
    seed,
    even: shape.even,
    amplitude,
    columns,
    rows,
    column,
    along,
    fade,
    planes,
    latticeRow: -1,
    near,
    far,
    tabled,
  }
}

function fillTables(plan: OctavePlan, tables: Uint8Array[], iy: number): void {
  plan.planes.forEach(({ iz }, k) => {
    const rowSeed = hashInto(hashInto(plan.seed, iz), iy)
    const table = tables[k]!
    for (let ix = 0; ix < plan.columns; ix++) table[ix] = gradientOf(hashInto(rowSeed, ix), plan.even)
  })
}

function toLatticeRow(plan: OctavePlan, iy: number): void {
  if (plan.latticeRow === iy) return
  const next = (iy + 1) % plan.rows
  if (plan.latticeRow >= 0 && (plan.latticeRow + 1) % plan.rows === iy) {
    const spare = plan.near
    plan.near = plan.far
    plan.far = spare
  } else fillTables(plan, plan.near, iy)
  fillTables(plan, plan.far, next)
  plan.latticeRow = iy
}

/** Where a row of texels lies in the lattice: between rows iy and next, with the fade v between them. */
function rowOf(plan: OctavePlan, y: number, height: number) {
  const at = ((y + 0.5) * plan.rows) / height
  const iy = Math.floor(at)
  const fy = f(at - iy)
  const v = quinticFade(fy)
  return { iy, next: (iy + 1) % plan.rows, fy, fy1: f(fy - 1), u: f(1 - v), v }
}

/** What a lattice column's corners give along a row: a·x + b, x being measured from the column. */
function corner(plan: OctavePlan, ix: number, row: ReturnType<typeof rowOf>): { a: number; b: number } {
  const { planes, tabled, near, far } = plan
  const { iy, next, fy, fy1, u, v } = row
  let a = 0
  let b = 0
  for (let k = 0; k < planes.length; k++) {
    const { iz, fz, weight } = planes[k]!
    const g0 = tabled ? near[k]![ix]! : latticeGradient(plan.seed, ix, iy, iz, plan.even)
    const g1 = tabled ? far[k]![ix]! : latticeGradient(plan.seed, ix, next, iz, plan.even)
    a = f(a + f(weight * f(f(u * GX[g0]!) + f(v * GX[g1]!))))
    const low = f(f(GY[g0]! * fy) + f(GZ[g0]! * fz))
    const high = f(f(GY[g1]! * fy1) + f(GZ[g1]! * fz))
    b = f(b + f(weight * f(f(u * low) + f(v * high))))
  }
  return { a, b }
}

function addOctave(plan: OctavePlan, style: NoiseShape['style'], y: number, height: number, sum: Float32Array): void {
  const { column, along, fade, columns, amplitude } = plan
  const row = rowOf(plan, y, height)
  if (plan.tabled) toLatticeRow(plan, row.iy)
  const { lift, sign } = STYLES[style]
  let current = -2
  let a0 = 0
  let b0 = 0
  let a1 = 0
  let b1 = 0
  let right = 0 // b of the right column before it is moved to fx − 1
  let da = 0
  let db = 0
  for (let x = 0; x < sum.length; x++) {
    const ix = column[x]!
    if (ix !== current) {
      // a·fx + b is the contribution of one lattice column's corners at this row.
      const onward = current >= 0 && ix === current + 1
      if (onward) {
        a0 = a1
        b0 = right
      }
      for (let side = onward ? 1 : 0; side < 2; side++) {
        const { a, b } = corner(plan, (ix + side) % columns, row)
        if (side === 0) {
          a0 = a
          b0 = b
        } else {
          a1 = a
          right = b
          b1 = f(b - a) // a·(fx − 1) + b
        }
      }
      da = f(a1 - a0)
      db = f(b1 - b0)
      current = ix
    }
    const fx = along[x]!
    const n = f(f(f(a0 * fx) + b0) + f(fade[x]! * f(f(da * fx) + db)))
    const styled = style === 'plain' ? n : f(lift + f(sign * (n < 0 ? -n : n)))
    sum[x] = sum[x]! + f(amplitude * styled)
  }
}

/** A random value in 0 ≤ x < 1 for a lattice point. */
export const latticeValue = (seed: number, ix: number, iy: number): number =>
  unitFloat(hashInto(hashInto(seed, iy), ix))
