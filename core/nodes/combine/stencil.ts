import { floorMod, rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import type { ImagePyramid, RasterImage } from '../../field/pyramid'
import { imageKey } from '../../field/pyramid'
import { defineNode } from '../../graph/define-node'
import { image, number, pair, toggle } from '../../graph/parameters'
import { colour, grey } from '../../graph/ports'
import { cosTurns, sinTurns } from '../../elementary'
import { mixBounded } from '../../kernels/blend-fields'
import { bledReader } from '../../kernels/bleed'

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
  evaluate: ({ under, mask }, params, out, { width, height, rows, images }) => {
    const pyramid = params.image === '' ? undefined : images.get(imageKey(requestOf(params.image)))
    const at = pyramid ? placed(pyramid, params, width, height) : null
    const texel = new Float64Array(4)
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const u0 = rowStart(under, y)
      const m0 = mask ? rowStart(mask, y) : 0
      const [r0, a0, c0] = [out.result, out.alpha, out.colour].map((field) => (field ? rowStart(field, y) : 0)) as [
        number,
        number,
        number,
      ]
      // What the picture does not reach stays as it is.
      under.planes.forEach((plane, p) => out.result?.planes[p]!.set(plane.subarray(u0, u0 + width), r0))
      out.alpha?.planes[0]!.fill(0, a0, a0 + width)
      out.colour?.planes.forEach((plane) => plane.fill(0, c0, c0 + width))
      for (let x = 0; x < width; x++) {
        if (!at?.(x, floorMod(y, height), texel)) continue
        const shows = mask ? Math.min(1, Math.max(0, mask.planes[0]![m0 + x]!)) : 1
        const alpha = Math.fround(texel[3]! * params.opacity * shows)
        if (out.alpha) out.alpha.planes[0]![a0 + x] = alpha + 0
        for (let p = 0; p < 3; p++) {
          if (out.result)
            out.result.planes[p]![r0 + x] = mixBounded(under.planes[p]![u0 + x]!, Math.fround(texel[p]!), alpha)
          if (out.colour) out.colour.planes[p]![c0 + x] = bounded(texel[p]!)
        }
      }
    }
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

/**
 * Straight colour and alpha of the placed picture at a texel; the copy that covers most counts where the tile wraps. False where
 * none reaches.
 */
function placed(
  pyramid: ImagePyramid,
  { centre, size, angle, mirror }: { centre: readonly [number, number]; size: number; angle: number; mirror: boolean },
  width: number,
  height: number,
): (x: number, y: number, texel: Float64Array) => boolean {
  const base = pyramid.levels[0]!
  const tall = (size * base.height) / base.width
  const tile = height / width
  const cos = cosTurns(angle)
  const sin = sinTurns(angle)
  const read = bledReader(pyramid, [1 / (size * width), 1 / (tall * width)])
  const reach = Math.sqrt(size * size + tall * tall) / 2
  const [spanX, spanY] = [Math.ceil(reach + 0.5), Math.ceil(reach / tile + 0.5)]
  const found = new Float64Array(4)
  const far = (reach + 2 / width) * (reach + 2 / width)
  return (x, y, texel) => {
    let max = -1
    const u = (x + 0.5) / width - centre[0]
    const v = (y + 0.5) / width - centre[1]
    const dx = u - Math.round(u)
    const dy = v - Math.round(v / tile) * tile
    // Of all copies this one is the nearest.
    if (dx * dx + dy * dy > far) return false
    for (let j = -spanY; j <= spanY; j++)
      for (let i = -spanX; i <= spanX; i++) {
        const px = dx + i
        const py = dy + j * tile
        if (px * px + py * py > far) continue
        const across = (px * cos - py * sin) / size
        const down = (px * sin + py * cos) / tall
        // The picture's own border is softened over a texel.
        const border = Math.min(0.5 - Math.abs(across), ((0.5 - Math.abs(down)) * tall) / size) * size * width + 0.5
        if (border <= 0) continue
        read(mirror ? 0.5 - across : across + 0.5, down + 0.5, found)
        const alpha = found[3]! * Math.min(1, border)
        if (alpha <= max) continue
        max = alpha
        texel.set(found)
        texel[3] = alpha
      }
    return max >= 0
  }
}
