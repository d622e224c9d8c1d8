import { LUMINANCE } from '../../colour/srgb'
import type { Field } from '../../field/field'
import { createField, rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { any, grey, normal } from '../../graph/ports'
import { blurFootprint } from '../../kernels/blur'
import { blurredBand } from '../../kernels/blurred-band'
import { normalsOfHeight } from '../../kernels/normals'
import type { Rows } from '../../kernels/rows'

/** Widths of the bands, of the size: each is what a blur of one width keeps and that of the next takes away. */
const BANDS = [0, 1 / 16, 1 / 4, 1]

/** Rows above and below that the widest blur reads. */
const blurRows = (size: number, width: number, height: number): number =>
  blurFootprint({ kind: 'gaussian', sigma: size * width }, height)

/**
 * Brightness as relief: differences of Gaussians at three scales, each by its weight, times +1 to −1 by a polarity mask.
 * Source: the pyramid of P. Burt, E. Adelson, "The Laplacian Pyramid as a Compact Image Code", IEEE Trans. Communications 31 (4), 1983;
 * that bright is high is common practice for pictures lit from all sides, and no measurement.
 */
export default defineNode({
  type: 'image-to-normal',
  version: 1,
  family: 'surface',
  title: 'Image to normal',
  summary: 'Takes a picture’s brightness for relief, at several scales.',
  keywords: ['photo', 'picture', 'bump', 'normal map', 'height from photo', 'relief', 'polarity'],
  usualFor: ['colour'],
  params: {
    strength: number({
      default: 1,
      min: -100,
      max: 100,
      softRange: [0, 4],
      help: 'At 1 from black to white is the whole of the material’s height scale; below 0 dark is high.',
    }),
    size: number({
      default: 0.04,
      min: 0.001,
      max: 0.25,
      softRange: [0.005, 0.12],
      unit: 'tile',
      help: 'Forms larger than this are left flat, such as light that falls off over the picture.',
    }),
    fine: number({ default: 0.5, min: -10, max: 10, softRange: [0, 2], help: 'How much grain and scratches count.' }),
    medium: number({ default: 1, min: -10, max: 10, softRange: [0, 2], help: 'How much what lies between counts.' }),
    large: number({
      default: 1,
      min: -10,
      max: 10,
      softRange: [0, 2],
      help: 'How much the forms near the size count.',
    }),
  },
  inputs: {
    source: any({ help: 'The picture; colours count by how bright they look, greys as they are.' }),
    polarity: grey({
      help: 'Where it is 1 bright stands out, where it is 0 bright recedes, at 0.5 the surface is flat.',
      whenUnconnected: 1,
    }),
  },
  outputs: {
    normal: normal({ help: 'Unit normals, +Y to the top.' }),
    height: grey({ help: 'Unit height; 0.5 lies at the surface.' }),
  },
  genericTypes: ['grey', 'colour'],
  encoded: () => true,
  uses: ['metres', 'heightMetres'],
  mixedAtSeams: true,
  footprint: ({ size }, { width, height }) => blurRows(size, width, height) + 1,
  scratchPlanes: () => 5,
  presets: [
    { title: 'Grain only', keywords: ['fine', 'paper', 'cloth'], params: { fine: 1, medium: 0.3, large: 0 } },
    { title: 'Broad forms', keywords: ['stones', 'bulges'], params: { fine: 0.1, medium: 0.6, large: 1.5, size: 0.1 } },
  ],
  evaluate: ({ source, polarity }, { strength, size, ...weights }, out, context) => {
    const { width, height, tileTexels, rows, metres, heightMetres } = context
    const around: Rows = { from: rows.from - 1, to: rows.to + 1, check: rows.check }
    const brightness =
      source.planes.length === 1 ? source : lumaAround(source, around, blurRows(size, tileTexels, height))
    const relief = createField('grey', width, height, { top: around.from, rows: around.to - around.from })
    addBands(
      brightness,
      relief,
      around,
      BANDS.map((band) => band * size * tileTexels),
      [weights.fine, weights.medium, weights.large],
    )
    raise(relief, polarity, around, strength)
    if (out.height)
      for (let y = rows.from; y < rows.to; y++) {
        const from = (y - around.from) * width
        out.height.planes[0]!.set(relief.planes[0]!.subarray(from, from + width), rowStart(out.height, y))
      }
    if (out.normal) normalsOfHeight(relief, out.normal, rows, (heightMetres * width) / metres[0], 'central')
  },
  example: {
    nodes: {
      cells: { type: 'cells', params: { cells: [5, 5] } },
      tint: {
        type: 'gradient-remap',
        params: {
          stops: [
            { at: 0, colour: '#2f2a24' },
            { at: 1, colour: '#c8b48a' },
          ],
        },
        inputs: { source: 'cells.border' },
      },
    },
    inputs: { source: 'tint.result' },
    params: { strength: 3, size: 0.08 },
  },
})

/** How bright encoded colours look (luma, ITU-R BT.709-6 item 3.2), over the rows that the blurs read. */
function lumaAround(source: Field, { from, to }: Rows, more: number): Field {
  const { width, height } = source
  const count = to - from + 2 * more
  const band = count >= height ? { top: 0, rows: height } : { top: from - more, rows: count }
  const luma = createField('grey', width, height, band)
  const [r, g, b] = source.planes as [Float32Array, Float32Array, Float32Array]
  const target = luma.planes[0]!
  for (let row = 0; row < band.rows; row++) {
    const start = rowStart(source, band.top + row)
    for (let x = 0; x < width; x++)
      target[row * width + x] =
        LUMINANCE[0] * r[start + x]! + LUMINANCE[1] * g[start + x]! + LUMINANCE[2] * b[start + x]!
  }
  return luma
}

/** Sums weighted differences of blurs into the relief. */
function addBands(
  brightness: Field,
  relief: Field,
  rows: Rows,
  sigmas: readonly number[],
  weights: readonly number[],
): void {
  const target = relief.planes[0]!
  // Each blur counts by the difference of the weights on its two sides.
  sigmas.forEach((sigma, i) => {
    const factor = (weights[i] ?? 0) - (weights[i - 1] ?? 0)
    if (factor === 0) return
    const { planes } = blurredBand(brightness, brightness.planes[0]!, sigma, rows, 0)
    for (let k = 0; k < target.length; k++) target[k]! += factor * planes[0]![k]!
  })
}

/** ½ + relief · strength · polarity. */
function raise(relief: Field, polarity: Field, rows: Rows, strength: number): void {
  const { width } = relief
  const plane = relief.planes[0]!
  const mask = polarity.planes[0]!
  for (let y = rows.from; y < rows.to; y++) {
    const from = (y - rows.from) * width
    const at = rowStart(polarity, y)
    for (let x = 0; x < width; x++)
      plane[from + x] = bounded(Math.fround(0.5 + strength * plane[from + x]! * (2 * mask[at + x]! - 1)))
  }
}
