import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import { bilinearReader } from './bilinear'
import { cosTurns, sinTurns } from '../elementary'
import type { Rows } from './rows'

const f = Math.fround

/** In the order of their numbers in core/kernels/assembly/warp.ts. */
export const COMBINE = ['average', 'minimum', 'maximum'] as const
export type Combine = (typeof COMBINE)[number]

/** Where a texel's content comes from: tile units, v down. Written into `offset` as [du, dv]. */
export type OffsetAt = (x: number, y: number, direction: number, offset: Float64Array) => void

/**
 * Moves a field: out(p) = source(p − offset(p)), read bilinearly, wrapping; several directions are combined.
 * Shape: source and out alike; one length unit is the tile's width on both axes, texels are square.
 * The field must hold the rows that the largest offset reaches, and two more.
 */
export function warpField(
  source: Field,
  out: Field,
  rows: Rows,
  directions: number,
  combine: Combine,
  offsetAt: OffsetAt,
): void {
  const { width } = source
  const readers = source.planes.map((plane) => bilinearReader(source, plane))
  const offset = new Float64Array(2)
  const weight = f(1 / directions)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(out, y)
    for (let x = 0; x < width; x++) {
      for (let d = 0; d < directions; d++) {
        offsetAt(x, y, d, offset)
        const px = x - offset[0]! * width
        const py = y - offset[1]! * width
        for (let p = 0; p < out.planes.length; p++) {
          const v = readers[p]!(px, py)
          const target = out.planes[p]!
          const i = start + x
          if (combine === 'average') target[i] = d === 0 ? f(v * weight) : f(target[i]! + f(v * weight))
          else if (d === 0) target[i] = v
          else if (combine === 'minimum' ? v < target[i]! : v > target[i]!) target[i] = v
        }
      }
      for (const target of out.planes) target[start + x] = bounded(target[start + x]!)
    }
  }
}

/** The unit vector of an angle in turns, counter-clockwise as seen: [u right, v down]. */
export const directionOf = (turns: number): [number, number] => [cosTurns(turns), -sinTurns(turns)]
