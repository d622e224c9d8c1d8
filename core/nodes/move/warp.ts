import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, integer, number } from '../../graph/parameters'
import { grey, any, vector } from '../../graph/ports'
import { slopeReader } from '../../kernels/slopes'
import type { Walker } from '../../kernels/path-filter'
import { downhill, filterAlongPath, stepsFor } from '../../kernels/path-filter'
import type { Rows } from '../../kernels/rows'
import type { Combine, OffsetAt } from '../../kernels/warp'
import { directionOf, warpField } from '../../kernels/warp'

const unit = (v: number): number => (v < -1 ? -1 : v > 1 ? 1 : v)
const valueAt = (field: Field | null, x: number, y: number, without: number): number =>
  field ? field.planes[0]![rowStart(field, y) + x]! : without

/** Moves a field by an amount that other fields may steer. Source: own derivation. */
export default defineNode({
  type: 'warp',
  version: 1,
  family: 'move',
  title: 'Warp',
  summary: 'Moves what comes in: along an angle, along slopes, or by a vector field.',
  keywords: ['push', 'distort', 'displace', 'slope', 'break up', 'smear', 'drips', 'streaks'],
  params: {
    along: choice({
      default: 'slope',
      options: ['angle', 'slope', 'vector'],
      help: 'One angle everywhere, downhill of the driver, or the vectors of a field.',
    }),
    strength: number({
      default: 0.02,
      min: -0.5,
      max: 0.5,
      softRange: [0, 0.1],
      unit: 'tile',
      help: 'How far at most.',
    }),
    angle: number({
      default: 0,
      min: -8,
      max: 8,
      softRange: [0, 1],
      unit: 'turn',
      help: 'Direction, counter-clockwise; turns slopes and vectors too.',
    }),
    steepness: number({
      visibleWhen: { along: ['slope'] },
      default: 8,
      min: 0.01,
      max: 1000,
      softRange: [1, 50],
      help: 'The slope, in greys a tile, that pushes by the full strength. Steeper ones push no further.',
    }),
    steps: choice({
      visibleWhen: { along: ['slope'] },
      default: 'one',
      options: ['one', 'small'],
      help: 'One move, or many small ones that follow the slope; all that is passed on the way is combined.',
    }),
    directions: integer({ default: 1, min: 1, max: 8, help: 'Pushes in so many directions around the circle.' }),
    combine: choice({
      default: 'average',
      options: ['average', 'minimum', 'maximum'],
      help: 'How several directions, or all that is passed, come together.',
    }),
  },
  inputs: {
    source: any({ help: 'What is moved.' }),
    driver: grey({ help: 'For angle: how far, 0 to 1. For slope: the hills.', whenUnconnected: null }),
    vector: vector({ help: 'For vector: direction and share of the strength.', whenUnconnected: null }),
    strengthBy: grey({ help: 'Multiplies the strength, 0 to 1.', whenUnconnected: null }),
    angleBy: grey({ help: 'Adds to the angle, in turns.', whenUnconnected: null }),
  },
  outputs: { result: any({ help: 'What was moved.' }) },
  genericTypes: ['grey', 'colour', 'vector'],
  footprint: ({ strength }, { width }) => Math.ceil(Math.abs(strength) * width) + 3,
  evaluate: ({ source, driver, vector: by, strengthBy, angleBy }, params, { result }, { width, rows }) => {
    if (!result) return
    if (params.along === 'slope' && params.steps === 'small') {
      warpAlongSlopes(source, driver, strengthBy, params, result, width, rows)
      return
    }
    const turns = Array.from({ length: params.directions }, (_, k) => params.angle + k / params.directions)
    const fixed = turns.map(directionOf)
    const slopeAt = params.along === 'slope' && driver ? slopeReader(driver, 'central') : null
    const slope = new Float64Array(2)
    // [u right, v up] of the push before it is turned by the angle.
    const raw: OffsetAt = (x, y, _, v) => {
      v[0] = 0
      v[1] = 0
      if (params.along === 'angle') v[0] = unit(valueAt(driver, x, y, 1))
      else if (params.along === 'vector' && by) {
        const i = rowStart(by, y) + x
        v[0] = by.planes[0]![i]!
        v[1] = -by.planes[1]![i]!
      } else if (slopeAt) {
        slopeAt(x, y, slope)
        v[0] = (-slope[0]! * width) / params.steepness
        v[1] = (slope[1]! * width) / params.steepness
      }
      const length = Math.sqrt(v[0]! * v[0]! + v[1]! * v[1]!)
      if (length > 1) {
        v[0] = v[0]! / length
        v[1] = v[1]! / length
      }
    }
    warpField(source, result, rows, params.directions, params.combine, (x, y, d, offset) => {
      raw(x, y, d, offset)
      const [c, down] = angleBy ? directionOf(turns[d]! + valueAt(angleBy, x, y, 0)) : fixed[d]!
      const s = -down
      const ratio = Math.max(0, unit(valueAt(strengthBy, x, y, 1))) * params.strength
      const u = offset[0]!
      const v = offset[1]!
      offset[0] = (u * c - v * s) * ratio
      offset[1] = -(u * s + v * c) * ratio
    })
  },
  example: {
    nodes: {
      cells: { type: 'cells', params: { cells: [5, 5] } },
      noise: { type: 'noise', params: { cells: [4, 4], octaves: 3 } },
    },
    inputs: { source: 'cells.border', driver: 'noise.grey' },
    params: { strength: 0.05, steepness: 6 },
  },
})

/** Small steps downhill; the strength is how far they go in all. */
function warpAlongSlopes(
  source: Field,
  driver: Field | null,
  strengthBy: Field | null,
  { strength, combine }: { strength: number; combine: Combine },
  result: Field,
  width: number,
  rows: Rows,
): void {
  const texels = strength * width
  const steps = stepsFor(Math.abs(texels))
  // The part of the strength that belongs to where the path began.
  let step = 0
  const begin = (x: number, y: number, walker: Walker): void => {
    step = driver ? (texels * Math.max(0, unit(valueAt(strengthBy, x, y, 1)))) / steps : 0
    Object.assign(walker, { x, y, dx: 0, dy: 0 })
  }
  const turn = driver ? downhill(slopeReader(driver, 'central'), width, () => step) : undefined
  filterAlongPath(source, result, rows, driver ? steps : 0, combine, begin, turn)
}
