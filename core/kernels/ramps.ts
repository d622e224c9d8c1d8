import { atan2Turns, cosTurns, pow, sinTurns } from '../elementary'
import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import type { Rows } from './rows'
import { simd } from './simd'

/** In the order of their numbers in core/kernels/assembly/ramp.ts. */
export const RAMP_SHAPES = ['linear', 'radial', 'angular', 'diamond', 'box'] as const
export type RampShape = (typeof RAMP_SHAPES)[number]

export interface Ramp {
  readonly shape: RampShape
  /** Middle, tile units, v down. */
  readonly centre: readonly [number, number]
  /** Turns, counter-clockwise. */
  readonly angle: number
  /** Where a centred ramp reaches 1; half the length of a linear one. Tile units. */
  readonly radius: number
  readonly exponent: number
  readonly repeat: number
  readonly mirror: boolean
}

/** ∫₀ᵗ of the repeated profile, for averaging over a texel: a saw, or a triangle of twice the period. */
function integral(t: number, mirror: boolean): number {
  if (!mirror) {
    const whole = Math.floor(t)
    const part = t - whole
    return whole * 0.5 + part * part * 0.5
  }
  const pairs = Math.floor(t / 2)
  const part = t - 2 * pairs
  return pairs + (part <= 1 ? 0.5 * part * part : 2 * part - 0.5 * part * part - 1)
}

/**
 * A function from a place (tile units, v down) to the ramp's value.
 * linear: 0 to 1 over 2·radius along the angle; radial, diamond, box: 0 at the centre, 1 at the radius, to the power
 * `exponent`; angular: turns from the angle. Repeated ramps jump; the jump is averaged over `texel` (one texel's width).
 * Source: own derivation.
 */
export function rampAt(ramp: Ramp, texel: number): (u: number, v: number) => number {
  const c = cosTurns(ramp.angle)
  const s = sinTurns(ramp.angle)
  const { shape, radius, exponent, repeat, mirror } = ramp
  return (u, v) => {
    const dx = u - ramp.centre[0]
    const dy = ramp.centre[1] - v
    const x = dx * c + dy * s
    const y = dy * c - dx * s
    const ax = x < 0 ? -x : x
    const ay = y < 0 ? -y : y
    const distance = Math.sqrt(x * x + y * y)
    let t: number
    let slope = 1 / radius
    if (shape === 'linear') {
      t = 0.5 + x / (2 * radius)
      slope = 0.5 / radius
    } else if (shape === 'angular') {
      t = atan2Turns(y, x)
      if (t < 0) t += 1
      slope = 0.15915494309189535 / (distance > texel ? distance : texel)
    } else t = (shape === 'radial' ? distance : shape === 'diamond' ? ax + ay : ax > ay ? ax : ay) / radius
    if (exponent !== 1 && t > 0) {
      const bent = pow(t, exponent)
      slope *= (exponent * bent) / t
      t = bent
    }
    if (repeat === 1 && !mirror && shape !== 'angular') return t < 0 ? 0 : t > 1 ? 1 : t
    const scaled = t * repeat
    const half = Math.min(0.5, 0.5 * slope * repeat * texel)
    if (half < 1e-9)
      return mirror ? 1 - Math.abs(1 - (scaled - 2 * Math.floor(scaled / 2))) : scaled - Math.floor(scaled)
    return (integral(scaled + half, mirror) - integral(scaled - half, mirror)) / (2 * half)
  }
}

/** A ramp over a field's rows. */
export function rampRows(ramp: Ramp, out: Field, rows: Rows): void {
  const { width } = out
  const target = out.planes[0]!
  const vAt = (y: number): number => (floorMod(y, out.height) + 0.5) / width
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const { shape, centre, angle, radius, exponent, repeat, mirror } = ramp
      const [c, s] = [cosTurns(angle), sinTurns(angle)]
      const room = twin.take(width)
      const number = RAMP_SHAPES.indexOf(shape)
      for (let y = rows.from; y < rows.to; y++) {
        rows.check()
        const at = twin.target(out, target, y, y + 1, room)
        const above = centre[1] - vAt(y)
        twin.assembly.rampRow(at, width, number, c, s, centre[0], above, radius, exponent, repeat, mirror)
        twin.written(at, out, target, y, y + 1, room)
      }
    })
  const valueAt = rampAt(ramp, 1 / width)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(out, y)
    const v = vAt(y)
    for (let x = 0; x < width; x++) target[start + x] = valueAt((x + 0.5) / width, v) + 0
  }
}
