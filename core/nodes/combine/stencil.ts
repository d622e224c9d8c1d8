import type { RasterImage } from '../../field/pyramid'
import { imageKey } from '../../field/pyramid'
import { defineNode } from '../../graph/define-node'
import { image, number, pair, toggle } from '../../graph/parameters'
import { colour, grey } from '../../graph/ports'
import { stencilFields } from '../../kernels/stencil'

const requestOf = (name: string) => ({ image: name, encoded: true, premultiplied: false })

/** A white ring on nothing at all, whose hidden colour is black: what a fringe would come from. */
function exampleImage(): RasterImage {
  const n = 48
  const values = new Float32Array(n * n * 4)
  for (let y = 0; y < n; y++)
    for (let x = 0; x < n; x++) {
      const away = Math.sqrt((x - 23.5) * (x - 23.5) + (y - 23.5) * (y - 23.5))
      const alpha = Math.min(1, Math.max(0, 7 - Math.abs(away - 14)))
      const white = alpha > 0 ? 1 : 0
      values.set([white, white, white, Math.round(alpha * 255) / 255], (y * n + x) * 4)
    }
  return { width: n, height: n, channels: 4, values, bits: 8, float: false }
}

/**
 * An image with straight alpha over a field. Colours are filtered multiplied by alpha, as T. Porter and T. Duff,
 * "Compositing Digital Images", SIGGRAPH 1984 ask for; under alpha they are bled outward (kernels/bleed.ts).
 */
export default defineNode({
  type: 'stencil',
  version: 1,
  family: 'combine',
  title: 'Stencil',
  summary: 'Lays an image with transparency over a field, once.',
  keywords: ['decal', 'sticker', 'sign', 'number', 'logo', 'figure', 'overlay image', 'stamp'],
  params: {
    image: image({ help: 'The picture; what is transparent in it stays as it was.' }),
    centre: pair({
      default: [0.5, 0.5],
      min: -4,
      max: 4,
      softRange: [0, 1],
      unit: 'tile',
      help: 'Where its middle lies.',
    }),
    size: number({
      default: 0.5,
      min: 0.001,
      max: 1,
      softRange: [0.02, 1],
      unit: 'tile',
      help: 'Its width; the height follows from the picture.',
    }),
    angle: number({
      default: 0,
      min: -8,
      max: 8,
      softRange: [-0.5, 0.5],
      unit: 'turn',
      help: 'Counter-clockwise turn.',
    }),
    mirror: toggle({ default: false, help: 'Left and right change places.' }),
    opacity: number({ default: 1, min: 0, max: 1, help: 'How much of it shows.' }),
  },
  inputs: {
    under: colour({ help: 'What it is laid over.', whenUnconnected: 0.5 }),
    mask: grey({ help: 'Where it shows: 0 nowhere, 1 fully.', whenUnconnected: null }),
  },
  outputs: {
    result: colour({ help: 'The picture over the field.' }),
    alpha: grey({ help: '1 where the picture covers, 0 where the field shows.' }),
    colour: colour({ help: 'The picture’s colour, also where it is transparent near its edges.' }),
  },
  hardEdged: ['colour'],
  uses: ['metres'],
  // Not 'point': over one value everywhere the result still differs from place to place.
  footprint: 0,
  images: (params) => (params.image === '' ? [] : [requestOf(params.image)]),
  evaluate: ({ under, mask }, params, out, { rows, images }) => {
    const pyramid = params.image === '' ? undefined : images.get(imageKey(requestOf(params.image)))
    stencilFields({ under, mask }, pyramid ?? null, params, out, rows)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [5, 5] } },
      tint: { type: 'gradient-remap', inputs: { source: 'noise.grey' } },
    },
    inputs: { under: 'tint.result' },
    params: { image: 'example:ring', size: 0.6, angle: 0.05, centre: [0.9, 0.5] },
    images: { 'example:ring': exampleImage },
  },
})
