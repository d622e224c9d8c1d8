import { defineNode } from '../../graph/define-node'
import { rowStart } from '../../field/field'
import { choice } from '../../graph/parameters'
import { colour, grey, normal, vector } from '../../graph/ports'
import { joinNormal } from '../../kernels/join-normal'
import { srgbField } from '../../kernels/srgb'

/** Greys put together to a colour, a vector or a normal: x = 2a − 1, y = 2b − 1, z = √(1 − x² − y²), as two-channel files of normals are read. */
export default defineNode({
  type: 'join',
  version: 3,
  family: 'channel',
  title: 'Join',
  summary: 'Puts greys together to a colour, a vector or a normal.',
  keywords: ['combine channels', 'merge', 'rgb', 'compose', 'vector from greys', 'two channel normal', 'reconstruct z'],
  params: {
    encoding: choice({
      default: 'linear',
      options: ['linear', 'srgb'],
      help: 'For the colour: the greys are light, or values the eye sees evenly.',
    }),
  },
  inputs: {
    first: grey({ help: 'Red, or x; of a normal 0.5 is straight up.', whenUnconnected: 0 }),
    second: grey({ help: 'Green, or y; of a normal 0.5 is straight up.', whenUnconnected: 0 }),
    third: grey({ help: 'Blue.', whenUnconnected: 0 }),
  },
  outputs: {
    colour: colour({ help: 'All three.' }),
    vector: vector({ help: 'The first two.' }),
    normal: normal({ help: 'The first two about 0.5 as x and y, with the z that is left of length 1.' }),
  },
  footprint: 'point',
  // Decoded in float32 steps since version 2.
  upgrade: { 1: (params) => params, 2: (params) => params },
  evaluate: ({ first, second, third }, { encoding }, out, { rows }) => {
    if (out.normal) joinNormal(first, second, out.normal, rows)
    const inputs = [first, second, third]
    for (const target of [out.colour, out.vector]) {
      if (!target) continue
      const decode = target.type === 'colour' && encoding === 'srgb'
      target.planes.forEach((plane, p) => {
        const source = inputs[p]!
        if (decode) return srgbField(source, { ...target, planes: [plane] }, rows, 'decode')
        for (let y = rows.from; y < rows.to; y++) {
          rows.check()
          const from = rowStart(source, y)
          plane.set(source.planes[0]!.subarray(from, from + target.width), rowStart(target, y))
        }
      })
    }
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      spots: { type: 'spots', params: { cells: [4, 4], size: [0.6, 1.4] } },
      fine: { type: 'noise', params: { cells: [9, 9] } },
    },
    inputs: { first: 'noise.grey', second: 'spots.grey', third: 'fine.grey' },
  },
})
