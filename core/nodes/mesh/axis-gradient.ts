import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { choice, number, toggle } from '../../graph/parameters'
import { colour, grey, meshData } from '../../graph/ports'
import { smoothstep } from '../../kernels/point'

const AXES = ['x', 'y', 'z'] as const

/** A ramp along an axis of the model: own composition of a clamped linear ramp. */
export default defineNode({
  type: 'axis-gradient',
  version: 1,
  family: 'mesh',
  title: 'Axis gradient',
  summary: 'A ramp along an axis of the model, from its foot to its top.',
  keywords: ['height gradient', 'top to bottom', 'tide line', 'ground dirt', 'ramp', 'world position'],
  params: {
    axis: choice({ default: 'y', options: AXES, help: 'Along which axis of the model; y is up.' }),
    range: choice({
      default: 'part',
      options: ['part', 'model', 'metres'],
      help: 'From end to end of the part, of its whole model, or between two places in metres.',
    }),
    from: number({
      default: 0,
      min: -10000,
      max: 10000,
      softRange: [-2, 2],
      unit: 'metre',
      visibleWhen: { range: ['metres'] },
      help: 'Where the ramp begins.',
    }),
    to: number({
      default: 1,
      min: -10000,
      max: 10000,
      softRange: [-2, 2],
      unit: 'metre',
      visibleWhen: { range: ['metres'] },
      help: 'Where it ends.',
    }),
    floor: number({
      default: 0.04,
      min: 0,
      max: 1,
      help: 'The darkest value: a little above black, so that colours multiplied by it do not die.',
    }),
    softness: number({
      default: 0,
      min: 0,
      max: 1,
      help: 'Eases both ends of the ramp, so that it has no crease there.',
    }),
    invert: toggle({ default: false, help: 'Light at the foot instead of at the top.' }),
  },
  inputs: {
    position: colour({ help: 'Places in metres.', whenUnconnected: meshData('position') }),
    shift: grey({
      help: 'Moves the ramp from place to place: 0.5 not at all, 0 and 1 by half its length.',
      whenUnconnected: null,
    }),
  },
  outputs: { gradient: grey({ help: 'From the floor to 1.' }) },
  uses: ['boxes'],
  tiles: false,
  footprint: 'point',
  evaluate: ({ position, shift }, params, { gradient }, { width, rows, part }) => {
    if (!gradient) return
    const axis = AXES.indexOf(params.axis)
    const box = params.range === 'model' ? part?.modelBox : part?.box
    const [from, to] = params.range === 'metres' || !box ? [params.from, params.to] : [box.min[axis]!, box.max[axis]!]
    const span = to - from
    const plane = position.planes[axis]!
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const [p, s, out] = [rowStart(position, y), shift ? rowStart(shift, y) : 0, rowStart(gradient, y)]
      for (let x = 0; x < width; x++) {
        const moved = shift ? shift.planes[0]![s + x]! - 0.5 : 0
        const along = span === 0 ? (plane[p + x]! < from ? 0 : 1) : (plane[p + x]! - from) / span
        const t = Math.min(1, Math.max(0, along + moved))
        const eased = t + params.softness * (smoothstep(0, 1, t) - t)
        const value = params.invert ? 1 - eased : eased
        gradient.planes[0]![out + x] = bounded(params.floor + (1 - params.floor) * value)
      }
    }
  },
  example: { onPart: true },
})
