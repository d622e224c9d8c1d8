import type { Rgb } from '../../colour/srgb'
import { LUMINANCE, hexToEncoded, hexToLinear } from '../../colour/srgb'
import type { Field } from '../../field/field'
import { floorMod, rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import type { ImagePyramid, ImageRequest, RasterImage } from '../../field/pyramid'
import { imageKey } from '../../field/pyramid'
import { defineNode } from '../../graph/define-node'
import { choice, colourParameter, image, number, pair } from '../../graph/parameters'
import { colour, grey } from '../../graph/ports'
import { exp2 } from '../../elementary'
import { fillValues } from '../../kernels/point'
import { EDGES, imageReader, imageRows } from '../../kernels/image-sampling'
import type { Rows } from '../../kernels/rows'
import { simd } from '../../kernels/simd'

interface Laid {
  image: string
  encoding: string
  alpha: string
  edge: (typeof EDGES)[number]
  cropFrom: readonly [number, number]
  cropTo: readonly [number, number]
  repeat: readonly [number, number]
  sharpness: number
}

const requestOf = ({ image: name, encoding, alpha }: Pick<Laid, 'image' | 'encoding' | 'alpha'>): ImageRequest => ({
  image: name,
  encoded: encoding === 'srgb',
  premultiplied: alpha === 'premultiplied',
})

const storedRequest = (params: Pick<Laid, 'image' | 'encoding' | 'alpha'>): ImageRequest => ({
  ...requestOf(params),
  encoded: false,
})

/** A small picture with a round hole, for the help and the tests. */
function exampleImage(): RasterImage {
  const n = 32
  const values = new Float32Array(n * n * 4)
  for (let y = 0; y < n; y++)
    for (let x = 0; x < n; x++) {
      const dark = ((x >> 2) + (y >> 2)) % 2
      const away = (x - 15.5) * (x - 15.5) + (y - 15.5) * (y - 15.5)
      values.set([dark ? 0.2 : 0.8, dark ? 0.4 : 0.6, x / (n - 1), away < 64 ? 0 : 1], (y * n + x) * 4)
    }
  return {
    width: n,
    height: n,
    channels: 4,
    values: values.map((v) => Math.round(v * 255) / 255),
    bits: 8,
    float: false,
  }
}

/** An image as a source. Filtering: L. Williams, "Pyramidal Parametrics", 1983 (image-sampling.ts). */
export default defineNode({
  type: 'image',
  version: 2,
  family: 'make',
  title: 'Image',
  summary: 'A picture from a file: colour, grey and alpha.',
  keywords: ['photo', 'scan', 'bitmap', 'file', 'texture', 'grunge'],
  params: {
    image: image({ help: 'The picture. Without one, the ground shows.' }),
    edge: choice({
      default: 'tile',
      options: EDGES,
      help: 'What lies beyond the edge: the picture again, its border, or its mirror.',
    }),
    encoding: choice({
      default: 'srgb',
      options: ['srgb', 'raw'],
      help: 'srgb for colours, raw for data such as heights or masks.',
    }),
    alpha: choice({
      default: 'straight',
      options: ['straight', 'premultiplied'],
      help: 'How colour and transparency are stored.',
    }),
    ground: colourParameter({ default: '#000000', help: 'What shows through where the picture is transparent.' }),
    repeat: pair({
      default: [1, 1],
      min: 0.01,
      max: 256,
      softRange: [1, 8],
      help: 'How many times it goes into the tile.',
    }),
    cropFrom: pair({
      default: [0, 0],
      min: 0,
      max: 1,
      title: 'Crop from',
      help: 'Left and top of the part used, as shares of the picture.',
    }),
    cropTo: pair({ default: [1, 1], min: 0, max: 1, title: 'Crop to', help: 'Right and bottom of the part used.' }),
    sharpness: number({
      default: 0,
      min: -2,
      max: 2,
      help: 'Reads finer (above 0) or softer (below) than the size asks for.',
    }),
  },
  inputs: {},
  outputs: {
    colour: colour({ help: 'The colour over the ground.' }),
    stored: grey({
      title: 'As stored',
      help: 'The values of the file as data, for heights, roughness and masks; of a colour picture its luma.',
    }),
    grey: grey({ title: 'Luminance', help: 'The luminance of its colour, in linear light.' }),
    alpha: grey({ help: 'Its opacity.' }),
  },
  tiles: false,
  // 2: gives the stored values too.
  upgrade: { 1: (params) => params },
  footprint: 'point',
  images: (params, outputs) =>
    params.image === ''
      ? []
      : [
          ...(outputs.some((output) => output !== 'stored') ? [requestOf(params)] : []),
          ...(outputs.includes('stored') ? [storedRequest(params)] : []),
        ],
  evaluate: (_, params, { stored, ...out }, { width, height, rows, images }) => {
    const read = (request: ImageRequest, ground: Rgb, to: Outputs): void => {
      if (!to.colour && !to.grey && !to.alpha) return
      const pyramid = images.get(imageKey(request))
      if (pyramid) return readPicture(pyramid, params, ground, to, width, height, rows)
      if (to.colour) fillValues(to.colour, rows, ground)
      if (to.grey) fillValues(to.grey, rows, [Math.fround(luminance(ground))])
      if (to.alpha) fillValues(to.alpha, rows, [0])
    }
    read(requestOf(params), hexToLinear(params.ground), out)
    read(storedRequest(params), hexToEncoded(params.ground), { grey: stored })
  },
  example: {
    params: { image: 'example:chequer', ground: '#b4690e', repeat: [2, 2] },
    images: { 'example:chequer': exampleImage },
  },
})

/** Where a repeated place falls within the cropped part; the mip reader itself wraps whole pictures only. */
const FOLD: Record<(typeof EDGES)[number], (t: number) => number> = {
  tile: (t) => t - Math.floor(t),
  clamp: (t) => (t < 0 ? 0 : t > 1 ? 1 : t),
  mirror: (t) => {
    const k = t - 2 * Math.floor(t / 2)
    return k > 1 ? 2 - k : k
  },
}

interface Outputs {
  readonly colour?: Field
  readonly grey?: Field
  readonly alpha?: Field
}

const luminance = ([r, g, b]: ArrayLike<number> & Iterable<number>): number =>
  LUMINANCE[0] * r! + LUMINANCE[1] * g! + LUMINANCE[2] * b!

/** Rows of a picture over its ground, cropped and repeated. */
function readPicture(
  pyramid: ImagePyramid,
  params: Pick<Laid, 'cropFrom' | 'cropTo' | 'repeat' | 'sharpness' | 'edge'>,
  ground: Rgb,
  out: Outputs,
  width: number,
  height: number,
  rows: Rows,
): void {
  const [u0, v0] = params.cropFrom
  const spanU = params.cropTo[0] - u0 || 1
  const spanV = params.cropTo[1] - v0 || 1
  const [repeatU, repeatV] = params.repeat
  const footprint = exp2(-params.sharpness)
  const covers = [
    (Math.abs(spanU) * repeatU * footprint) / width,
    (Math.abs(spanV) * repeatV * footprint) / height,
  ] as const
  const fold = FOLD[params.edge]
  const us = Float64Array.from({ length: width }, (_, x) => u0 + spanU * fold(((x + 0.5) / width) * repeatU))
  const vAt = (y: number): number => v0 + spanV * fold(((floorMod(y, height) + 0.5) / height) * repeatV)
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const rowAt = imageRows(twin, pyramid, params.edge, covers, us)
      const [red, green, blue] = out.colour ? [0, 1, 2].map(() => twin.take(width)) : [0, 0, 0]
      const [grey, alpha] = [out.grey, out.alpha].map((field) => (field ? twin.take(width) : 0))
      const [r, g, b] = ground
      for (let y = rows.from; y < rows.to; y++) {
        rows.check()
        twin.assembly.overGround(rowAt(vAt(y)), width, r, g, b, red!, green!, blue!, grey!, alpha!)
        out.colour?.planes.forEach((plane, p) => twin.copyOut([red!, green!, blue!][p]!, out.colour!, plane, y, y + 1))
        if (out.grey) twin.copyOut(grey!, out.grey, out.grey.planes[0]!, y, y + 1)
        if (out.alpha) twin.copyOut(alpha!, out.alpha, out.alpha.planes[0]!, y, y + 1)
      }
    })
  const read = imageReader(pyramid, params.edge, covers)
  const texel = new Float64Array(4)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const v = vAt(y)
    const co = out.colour ? rowStart(out.colour, y) : 0
    const go = out.grey ? rowStart(out.grey, y) : 0
    const ao = out.alpha ? rowStart(out.alpha, y) : 0
    for (let x = 0; x < width; x++) {
      read(us[x]!, v, texel)
      const clear = 1 - texel[3]!
      for (let c = 0; c < 3; c++) texel[c] = bounded(texel[c]! + clear * ground[c]!)
      if (out.colour) for (let c = 0; c < 3; c++) out.colour.planes[c]![co + x] = texel[c]!
      if (out.grey) out.grey.planes[0]![go + x] = luminance(texel) + 0
      if (out.alpha) out.alpha.planes[0]![ao + x] = texel[3]! + 0
    }
  }
}
