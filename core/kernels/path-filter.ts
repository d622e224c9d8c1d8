import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import { bilinearReader } from './bilinear'
import type { Rows } from './rows'
import type { SlopeAt } from './slopes'
import type { Combine } from './warp'

/** Most places a walk reads: at the largest sizes it takes steps of several texels. */
const MAX_STEPS = 64

/** Where a walk stands and how it moves on, in texels. */
export interface Walker {
  x: number
  y: number
  dx: number
  dy: number
}

/**
 * Combines what a walk from each texel passes.
 * `begin` puts the walker at its start and gives it its step; `turn`, where given, gives it a new step before each move.
 * The field must hold the rows that walks reach, and two more.
 */
export function filterAlongPath(
  source: Field,
  out: Field,
  rows: Rows,
  steps: number,
  combine: Combine,
  begin: (x: number, y: number, walker: Walker) => void,
  turn?: (walker: Walker) => void,
): void {
  const readers = source.planes.map((plane) => bilinearReader(source, plane))
  const walker: Walker = { x: 0, y: 0, dx: 0, dy: 0 }
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(out, y)
    for (let x = 0; x < out.width; x++)
      for (let p = 0; p < out.planes.length; p++) {
        const read = readers[p]!
        begin(x, y, walker)
        let result = read(walker.x, walker.y)
        for (let step = 1; step <= steps; step++) {
          if (turn) turn(walker)
          walker.x += walker.dx
          walker.y += walker.dy
          const v = read(walker.x, walker.y)
          if (combine === 'average') result += v
          else if (combine === 'minimum' ? v < result : v > result) result = v
        }
        out.planes[p]![start + x] = bounded(combine === 'average' ? result / (steps + 1) : result)
      }
  }
}

/** Steps for a length in texels: one a texel, so that nothing is passed over, up to a limit. */
export const stepsFor = (texels: number): number => Math.min(MAX_STEPS, Math.max(1, Math.ceil(texels)))

/** Steps downhill of a slope field; a walker stands still where the ground is flat. */
export function downhill(slopeAt: SlopeAt, width: number, stepTexels: (walker: Walker) => number) {
  const slope = new Float64Array(2)
  return (walker: Walker): void => {
    const x = Math.floor(walker.x + 0.5)
    slopeAt(x - Math.floor(x / width) * width, Math.floor(walker.y + 0.5), slope)
    const steep = Math.sqrt(slope[0]! * slope[0]! + slope[1]! * slope[1]!)
    const step = steep < 1e-12 ? 0 : stepTexels(walker) / steep
    walker.dx = -slope[0]! * step
    walker.dy = -slope[1]! * step
  }
}
