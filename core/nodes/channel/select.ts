import { defineNode } from '../../graph/define-node'
import { integer, seed, toggle } from '../../graph/parameters'
import { id, any } from '../../graph/ports'
import { copyValues } from '../../kernels/channels'
import { dealtValues } from '../../kernels/ids'
import { streamSeed } from '../../random'

const OTHERS = { whenUnconnected: null } as const

/** One of several fields, by a number. */
export default defineNode({
  type: 'select',
  version: 1,
  family: 'channel',
  title: 'Select',
  summary: 'Lets one of up to six fields through, everywhere or by an ID.',
  keywords: ['switch', 'choose', 'multiplexer', 'variant', 'by id', 'option'],
  params: {
    choose: integer({ default: 1, min: 1, max: 6, help: 'Which one, where no ID is connected.' }),
    shuffle: toggle({ default: true, help: 'Deals IDs out at random; otherwise in turn.' }),
    seed: seed(),
  },
  inputs: {
    first: any({ help: 'Number 1.' }),
    second: any({ help: 'Number 2.', ...OTHERS }),
    third: any({ help: 'Number 3.', ...OTHERS }),
    fourth: any({ help: 'Number 4.', ...OTHERS }),
    fifth: any({ help: 'Number 5.', ...OTHERS }),
    sixth: any({ help: 'Number 6.', ...OTHERS }),
    by: id({ help: 'Deals each ID one of the connected fields.', ...OTHERS }),
  },
  outputs: { result: any({ help: 'The one that was chosen.' }) },
  genericTypes: ['grey', 'colour', 'normal', 'vector'],
  hardEdged: ['result'],
  uses: ['seed'],
  footprint: 'point',
  evaluate: (inputs, params, { result }, { rows, documentSeed }) => {
    if (!result) return
    const { first, second, third, fourth, fifth, sixth, by } = inputs
    const numbered = [first, second, third, fourth, fifth, sixth]
    const dealt = numbered.filter((field) => field !== null)
    if (!by) return copyValues(numbered[params.choose - 1] ?? first, result, rows)
    const stream = params.shuffle ? streamSeed(documentSeed, params.seed, 'select') : null
    dealtValues(dealt, by, stream, result, rows)
  },
  example: {
    nodes: {
      spots: { type: 'spots', params: { cells: [6, 6], density: 1, size: [1, 2] } },
      noise: { type: 'noise', params: { cells: [8, 8] } },
      stripes: { type: 'stripes', params: { frequency: [24, 24] } },
    },
    inputs: { first: 'noise.grey', second: 'stripes.grey', third: 'spots.grey', by: 'spots.id' },
  },
})
