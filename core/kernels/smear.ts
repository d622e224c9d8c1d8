import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import { bilinearReader } from './bilinear'
import type { Rows } from './rows'
import type { SlopeAt } from './slopes'
import type { Combine } from './warp'

const MOST_STEPS = 1024

/** Walks from a texel: called for each step with where it stands, in texels, which it moves on. */
export type Walk = (place: Float64Array, step: number) => void

/**
 * Combines what a walk from each texel passes.
 * Units: `steps` places after the first; `walkFrom` gives the walk that starts at a texel.
 * The field must hold the rows that walks reach, and two more.
 */
export function smearField(
  source: Field,
  out: Field,
  rows: Rows,
  steps: number,
  combine: Combine,
  walkFrom: (x: number, y: number, start: Float64Array) => Walk,
): void {
  const read = bilinearReader(source)
  const planes = out.planes.length
  const place = new Float64Array(2)
  const values = new Float64Array(planes)
  const result = new Float64Array(planes)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(out, y)
    for (let x = 0; x < out.width; x++) {
      place[0] = x
      place[1] = y
      const walk = walkFrom(x, y, place)
      read(place[0]!, place[1]!, result)
      for (let step = 1; step <= steps; step++) {
        walk(place, step)
        read(place[0]!, place[1]!, values)
        for (let p = 0; p < planes; p++) {
          if (combine === 'average') result[p] = result[p]! + values[p]!
          else if (combine === 'minimum' ? values[p]! < result[p]! : values[p]! > result[p]!) result[p] = values[p]!
        }
      }
      for (let p = 0; p < planes; p++)
        out.planes[p]![start + x] = bounded(combine === 'average' ? result[p]! / (steps + 1) : result[p]!)
    }
  }
}

/** Steps for a length in texels: one a texel, so that nothing is passed over. */
export const stepsFor = (texels: number): number => Math.min(MOST_STEPS, Math.max(1, Math.ceil(texels)))

/** A walk downhill of a slope field by `length` texels in all; it stands still where the ground is flat. */
export function downhill(slopeAt: SlopeAt, width: number, stepTexels: number): Walk {
  const slope = new Float64Array(2)
  return (place) => {
    const x = Math.floor(place[0]! + 0.5)
    slopeAt(x - Math.floor(x / width) * width, Math.floor(place[1]! + 0.5), slope)
    const steep = Math.sqrt(slope[0]! * slope[0]! + slope[1]! * slope[1]!)
    if (steep < 1e-12) return
    place[0] = place[0]! - (slope[0]! / steep) * stepTexels
    place[1] = place[1]! - (slope[1]! / steep) * stepTexels
  }
}
