import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { grey, any } from '../../graph/ports'
import { slopeReader } from '../../kernels/slopes'
import type { Walker } from '../../kernels/smear'
import { downhill, smearField, stepsFor } from '../../kernels/smear'
import { directionOf } from '../../kernels/warp'

const clampUnit = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v)

/** Draws a field out along a line or along slopes. Source: own derivation. */
export default defineNode({
  type: 'smear',
  version: 1,
  family: 'move',
  title: 'Smear',
  summary: 'Draws what comes in out along a line, or along the slopes of another field.',
  keywords: ['directional blur', 'motion blur', 'streaks', 'drips', 'drag'],
  params: {
    along: choice({ default: 'line', options: ['line', 'slope'], help: 'A straight line, or downhill of the driver.' }),
    length: number({ default: 0.05, min: 0, max: 0.5, softRange: [0, 0.2], unit: 'tile', help: 'How far.' }),
    angle: number({
      visibleWhen: { along: ['line'] },
      default: 0,
      min: -8,
      max: 8,
      softRange: [0, 1],
      unit: 'turn',
      help: 'Direction of the line, counter-clockwise.',
    }),
    from: choice({
      visibleWhen: { along: ['line'] },
      default: 'middle',
      options: ['middle', 'end'],
      help: 'The line runs to both sides of each place, or away from where things come from.',
    }),
    combine: choice({
      default: 'average',
      options: ['average', 'minimum', 'maximum'],
      help: 'What is kept of all that is passed.',
    }),
  },
  inputs: {
    source: any({ help: 'What is drawn out.' }),
    driver: grey({ help: 'For slope: the hills.', whenUnconnected: null }),
    lengthBy: grey({ help: 'Multiplies the length, 0 to 1.', whenUnconnected: null }),
    angleBy: grey({ help: 'Adds to the angle of the line, in turns.', whenUnconnected: null }),
  },
  outputs: { result: any({ help: 'What was drawn out.' }) },
  genericTypes: ['grey', 'colour', 'vector'],
  footprint: ({ length }, { width }) => Math.ceil(length * width) + 3,
  evaluate: ({ source, driver, lengthBy, angleBy }, params, { result }, { width, rows }) => {
    if (!result) return
    const texels = params.length * width
    const steps = stepsFor(texels)
    const share = (x: number, y: number): number =>
      lengthBy ? clampUnit(lengthBy.planes[0]![rowStart(lengthBy, y) + x]!) : 1
    if (params.along === 'slope') {
      // The share of the length that belongs to where the walk began.
      let step = 0
      const begin = (x: number, y: number, walker: Walker): void => {
        step = driver ? (texels * share(x, y)) / steps : 0
        Object.assign(walker, { x, y, dx: 0, dy: 0 })
      }
      const turn = driver ? downhill(slopeReader(driver, 'central'), width, () => step) : undefined
      return smearField(source, result, rows, driver ? steps : 0, params.combine, begin, turn)
    }
    const fixed = directionOf(params.angle)
    smearField(source, result, rows, steps, params.combine, (x, y, walker) => {
      const [u, v] = angleBy ? directionOf(params.angle + angleBy.planes[0]![rowStart(angleBy, y) + x]!) : fixed
      const step = (texels * share(x, y)) / steps
      const back = params.from === 'middle' ? steps / 2 : 0
      walker.dx = -u * step
      walker.dy = -v * step
      walker.x = x - walker.dx * back
      walker.y = y - walker.dy * back
    })
  },
  example: {
    nodes: {
      spots: { type: 'spots', params: { cells: [6, 6], size: [0.6, 1.2] } },
      noise: { type: 'noise', params: { cells: [4, 4], octaves: 2 } },
    },
    inputs: { source: 'spots.grey', lengthBy: 'noise.grey' },
    params: { length: 0.02, angle: 0.1 },
  },
})
