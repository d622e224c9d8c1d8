import { z } from 'zod'
import { decodeSrgb } from '../colour/srgb'
import { GristError } from '../errors'
import type { Field } from '../field/field'
import { createField } from '../field/field'
import type { RasterImage } from '../field/pyramid'
import type { Baker, ShownScale } from './baker'

/** How an image is meant that stands for mesh data. */
export const broughtInAs = z.strictObject({
  /** What black and white of a grey image of whole steps stand for; of positions, the corners of the box are taken. */
  range: z.tuple([z.number(), z.number()]),
  /** Normals whose green points down. */
  flipY: z.boolean(),
  /** Colours that are sRGB-encoded. */
  encoded: z.boolean(),
  /** Colours nearer to each other than this, in steps of 8 bits, have one number. */
  tolerance: z.number().min(0).max(128),
})
export type BroughtInAs = z.output<typeof broughtInAs>

/**
 * How an image is most often meant, by the kind that it stands for: black and white are what the kind's own picture shows so, in its units,
 * with 0 at mid-grey where it has signs. What a kind shows is linear.
 */
export const usualMeaning = (baker: Baker, scale: ShownScale): BroughtInAs => ({
  range: baker.type === 'grey' && baker.shown ? rangeShown(baker.shown, 0, scale) : [0, 1],
  flipY: false,
  encoded: baker.name === 'vertex-colour',
  tolerance: 8,
})

function rangeShown(shown: NonNullable<Baker['shown']>, plane: number, scale: ShownScale): [number, number] {
  const [zero, one] = [shown(0, plane, scale), shown(1, plane, scale)]
  // + 0: a zero without a sign.
  return [-zero / (one - zero) + 0, (1 - zero) / (one - zero)]
}

/**
 * An image as mesh data of a kind. Grey kinds read its first channel against the range, float images as the numbers themselves; normals are brought to length 1; numbers are those of
 * its colours, most frequent first, from 1. Throws mesh-invalid where it has too few channels, or more than 4096 colours.
 */
export function broughtIn(baker: Baker, image: RasterImage, meaning: BroughtInAs, scale: ShownScale): Field {
  const { width, height, channels, values } = image
  const type = baker.type === 'id' ? 'grey' : baker.type === 'vector' ? 'colour' : baker.type
  const field = createField(type, width, height)
  const count = width * height
  if (field.planes.length === 3 && channels < 3)
    throw new GristError('mesh-invalid', `${baker.title} has three channels, but the image has ${channels}.`)
  if (baker.type === 'id') {
    field.planes[0]!.set(numbersOfTexels(image, meaning.tolerance))
    return field
  }
  field.planes.forEach((plane, p) => {
    const [from, to] = baker.type === 'vector' && baker.shown ? rangeShown(baker.shown, p, scale) : meaning.range
    for (let i = 0; i < count; i++) {
      const value = values[i * channels + p]!
      plane[i] =
        baker.type === 'normal'
          ? (value * 2 - 1) * (p === 1 && meaning.flipY ? -1 : 1)
          : meaning.encoded && !image.float
            ? decodeSrgb(value)
            : image.float
              ? value
              : from + value * (to - from)
    }
  })
  if (baker.type === 'normal') lengthOne(field.planes)
  return field
}

function lengthOne([x, y, z]: readonly Float32Array[]): void {
  for (let i = 0; i < x!.length; i++) {
    const length = Math.sqrt(x![i]! ** 2 + y![i]! ** 2 + z![i]! ** 2)
    x![i] = length > 0 ? x![i]! / length : 0
    y![i] = length > 0 ? y![i]! / length : 0
    z![i] = length > 0 ? z![i]! / length : 1
  }
}

const MAX_COLOURS = 4096

/** A number for each texel: that of the nearest colour within the tolerance among those that are more frequent. */
function numbersOfTexels({ width, height, channels, values }: RasterImage, tolerance: number): Float32Array {
  const colourAt = (i: number): number => {
    let key = 0
    for (let k = 0; k < 3; k++) key = key * 256 + Math.round(values[i * channels + (channels < 3 ? 0 : k)]! * 255)
    return key
  }
  const texels = Float64Array.from({ length: width * height }, (_, i) => colourAt(i))
  const frequency = new Map<number, number>()
  for (const key of texels) frequency.set(key, (frequency.get(key) ?? 0) + 1)
  const heads: number[] = []
  const numbers = new Map<number, number>()
  const channel = (key: number, k: number): number => Math.floor(key / 256 ** k) % 256
  // Rare colours are those between two at a border: they come last and join what is nearest.
  for (const [key] of [...frequency].sort(([a, n], [b, m]) => m - n || a - b)) {
    let [nearest, least] = [-1, Infinity]
    heads.forEach((head, i) => {
      const apart = Math.max(...[0, 1, 2].map((k) => Math.abs(channel(head, k) - channel(key, k))))
      if (apart < least) [nearest, least] = [i, apart]
    })
    if (least > tolerance) {
      if (heads.length === MAX_COLOURS)
        throw new GristError('mesh-invalid', `Expected at most ${MAX_COLOURS} colours; a larger tolerance joins them.`)
      nearest = heads.push(key) - 1
    }
    numbers.set(key, nearest + 1)
  }
  return Float32Array.from(texels, (key) => numbers.get(key)!)
}
