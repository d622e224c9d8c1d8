import { cosTurns, sinTurns } from '../../elementary'
import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey, meshData, normal } from '../../graph/ports'
import { smoothstep } from '../../kernels/point'

/** How far surfaces face a direction: the cosine between the two (Lambert). */
export default defineNode({
  type: 'facing',
  version: 1,
  family: 'mesh',
  title: 'Facing',
  summary: 'Surfaces that look up, or any other way: where dust, snow or sun lie.',
  keywords: ['up', 'top', 'dust', 'snow', 'moss', 'direction', 'slope', 'normal mask'],
  params: {
    height: number({
      default: 0.25,
      min: -0.25,
      max: 0.25,
      unit: 'turn',
      help: 'How high the direction points: a quarter is straight up, 0 level, −a quarter straight down.',
    }),
    heading: number({
      default: 0,
      min: 0,
      max: 1,
      unit: 'turn',
      help: 'Which way it points over the ground: 0 is the front (+Z), a quarter +X.',
    }),
    level: number({
      default: 0.6,
      min: -1,
      max: 1,
      help: 'The cosine at which the mask is half: 1 only what faces it exactly, 0 all that is turned to it.',
    }),
    softness: number({ default: 0.4, min: 0, max: 2, help: 'How gradually the mask begins.' }),
  },
  inputs: { normal: normal({ help: 'Normals in the model’s space.', whenUnconnected: meshData('object-normal') }) },
  outputs: {
    mask: grey({ help: '1 where the surface faces the direction, 0 where it does not.' }),
    cosine: grey({ help: 'The cosine between the two, −1 to 1.' }),
  },
  tiles: false,
  footprint: 'point',
  evaluate: ({ normal: given }, { height, heading, level, softness }, { mask, cosine }, { width, rows }) => {
    const flat = cosTurns(height)
    const [a, b, c] = [flat * sinTurns(heading), sinTurns(height), flat * cosTurns(heading)]
    const [nx, ny, nz] = given.planes as [Float32Array, Float32Array, Float32Array]
    const [low, high] = [level - softness / 2, level + softness / 2]
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const at = rowStart(given, y)
      const [m, k] = [mask ? rowStart(mask, y) : 0, cosine ? rowStart(cosine, y) : 0]
      for (let x = 0; x < width; x++) {
        const value = bounded(nx[at + x]! * a + ny[at + x]! * b + nz[at + x]! * c)
        if (mask) mask.planes[0]![m + x] = softness === 0 ? Number(value >= level) : smoothstep(low, high, value) + 0
        if (cosine) cosine.planes[0]![k + x] = value
      }
    }
  },
  example: { onPart: true, params: { height: 0.2, level: 0.3 } },
})
