import { cropField } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { number, toggle } from '../../graph/parameters'
import { any } from '../../graph/ports'
import { fillValues } from '../../kernels/point'
import { quantiles } from '../../kernels/quantiles'
import { remapValues } from '../../kernels/values'

/** Stretches what a field really holds to a range. Source of the measure: kernels/quantiles.ts. */
export default defineNode({
  type: 'auto-range',
  version: 1,
  family: 'tone',
  title: 'Auto range',
  summary: 'Stretches the values that are there to a full range.',
  keywords: ['auto levels', 'normalise', 'percentile', 'contrast', 'histogram'],
  params: {
    lowRatio: number({
      default: 0.005,
      min: 0,
      max: 1,
      softRange: [0, 0.2],
      title: 'Below',
      help: 'The share of all texels that may fall below “to low”.',
    }),
    highRatio: number({
      default: 0.005,
      min: 0,
      max: 1,
      softRange: [0, 0.2],
      title: 'Above',
      help: 'The share of all texels that may rise above “to high”.',
    }),
    toLow: number({
      default: 0,
      min: -100,
      max: 100,
      softRange: [0, 1],
      title: 'To low',
      help: 'What the low end becomes.',
    }),
    toHigh: number({
      default: 1,
      min: -100,
      max: 100,
      softRange: [0, 1],
      title: 'To high',
      help: 'What the high end becomes.',
    }),
    clamp: toggle({ default: true, help: 'Holds values beyond the range at its ends.' }),
  },
  inputs: { source: any({ help: 'What is stretched. The channels of a colour are measured together.' }) },
  outputs: { result: any({ help: 'The stretched values; of a flat field, “to low”.' }) },
  genericTypes: ['grey', 'colour'],
  encoded: () => true,
  footprint: 'whole',
  prepare: ({ source }, { lowRatio, highRatio }) => {
    const whole = source.stride === 0 ? cropField(source, 0, 0, source.width, 1) : source
    return quantiles(whole.planes, [lowRatio, 1 - highRatio]) as [number, number]
  },
  evaluate: ({ source }, params, { result }, { rows, prepared: [low, high] }) => {
    if (!result) return
    const { toLow, toHigh, clamp } = params
    const width = high - low
    if (width > 0) remapValues(source, result, rows, { from: low, width, to: toLow, span: toHigh - toLow, clamp })
    else fillValues(result, rows, [toLow])
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [6, 6], octaves: 4 } } },
    inputs: { source: 'noise.grey' },
  },
})
