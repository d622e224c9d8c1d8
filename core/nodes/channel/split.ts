import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice } from '../../graph/parameters'
import { grey, any } from '../../graph/ports'

/** The planes of a field, each as a grey. */
export default defineNode({
  type: 'split',
  version: 1,
  family: 'channel',
  title: 'Split',
  summary: 'Takes a colour, normal or vector apart.',
  keywords: ['separate', 'channels', 'red', 'green', 'blue', 'extract', 'component'],
  params: {
    encoding: choice({
      default: 'linear',
      options: ['linear', 'srgb'],
      help: 'For colours: as light, or as values the eye sees evenly.',
    }),
  },
  inputs: { source: any({ help: 'What is taken apart.' }) },
  outputs: {
    first: grey({ help: 'Red, or x.' }),
    second: grey({ help: 'Green, or y.' }),
    third: grey({ help: 'Blue, or z; 0 of a vector.' }),
  },
  genericTypes: ['colour', 'normal', 'vector'],
  encoded: (params) => params.encoding === 'srgb',
  footprint: 'point',
  evaluate: ({ source }, _, { first, second, third }, { rows }) => {
    ;[first, second, third].forEach((out, p) => {
      if (!out) return
      const plane = source.planes[p]
      for (let y = rows.from; y < rows.to; y++) {
        rows.check()
        const from = rowStart(source, y)
        const to = rowStart(out, y)
        if (plane) out.planes[0]!.set(plane.subarray(from, from + out.width), to)
        else out.planes[0]!.fill(0, to, to + out.width)
      }
    })
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      slopes: { type: 'height-to-normal', params: { strength: 4 }, inputs: { height: 'noise.grey' } },
    },
    inputs: { source: 'slopes.normal' },
  },
})
