import { encodeSrgb } from '../colour/srgb'
import { GristError } from '../errors'
import type { RasterImage } from '../field/pyramid'

/** How far two pictures of one map are apart. Values 0–1 of integer files, plain numbers of floats. */
export interface Comparison {
  readonly largest: number
  /** Root of the mean square over all texels and channels. */
  readonly rms: number
  /** The share of texels that differ at all. */
  readonly ratio: number
  /** The texel that differs most, in tile units. */
  readonly at: readonly [number, number]
}

const PLANES = ['red', 'green', 'blue', 'alpha'] as const

/** Two pictures cut to the planes that both have, and the names of those that only one has. */
export function sharedPlanes(
  a: RasterImage,
  b: RasterImage,
): { before: RasterImage; after: RasterImage; added: string[]; removed: string[] } {
  const shared = Math.min(a.channels, b.channels)
  return {
    before: firstPlanes(a, shared),
    after: firstPlanes(b, shared),
    added: PLANES.slice(shared, b.channels),
    removed: PLANES.slice(shared, a.channels),
  }
}

function firstPlanes(image: RasterImage, count: number): RasterImage {
  const { width, height, channels, values } = image
  if (count === channels) return image
  const kept = new Float32Array(width * height * count)
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < count; c++) kept[i * count + c] = values[i * channels + c]!
  return { ...image, channels: count as RasterImage['channels'], values: kept }
}

/** How much a difference may be amplified. */
export const GAINS = [1, 4, 16, 64, 256] as const

/** The greatest gain at which most of a difference is still told apart: what is rare may be cut off. */
export function fittingGain({ largest, rms }: Pick<Comparison, 'largest' | 'rms'>): number {
  const usual = Math.min(largest, 6 * rms)
  return GAINS.findLast((gain) => gain * usual <= 1) ?? GAINS[0]
}

/** What two files of one map differ in, at the size of the smaller and in the planes that both have. */
export interface MapDifference extends Comparison {
  readonly width: number
  readonly height: number
  /** How often the difference is amplified. */
  readonly gain: number
  /** Planes that only the later, and only the earlier file has. */
  readonly added: readonly string[]
  readonly removed: readonly string[]
  /** Width and height of the earlier and the later file. */
  readonly sizes: readonly (readonly [number, number])[]
  /** Whether the difference shown is that of alpha, as nothing else differs. */
  readonly ofAlpha: boolean
}

/** Compares texel by texel. Throws file-invalid where size or channels differ. */
export function compareMaps(a: RasterImage, b: RasterImage): Comparison {
  alike(a, b)
  let largest = 0
  let squares = 0
  let differing = 0
  let worst = 0
  const { width, height, channels } = a
  for (let i = 0; i < width * height; i++) {
    let apart = 0
    for (let c = 0; c < channels; c++) {
      const d = Math.abs(a.values[i * channels + c]! - b.values[i * channels + c]!)
      squares += d * d
      if (d > apart) apart = d
    }
    if (apart > 0) differing++
    if (apart > largest) {
      largest = apart
      worst = i
    }
  }
  return {
    largest,
    rms: Math.sqrt(squares / (width * height * channels)),
    ratio: differing / (width * height),
    at: [((worst % width) + 0.5) / width, (Math.floor(worst / width) + 0.5) / height],
  }
}

/**
 * A picture of the difference: mid-grey where nothing changed, brighter where the second is greater, darker where it is
 * less, `gain` times as much as it is; of alpha where nothing else differs. Shape: RGBA bytes, top row first; grey pictures in
 * all three.
 */
export function differencePicture(a: RasterImage, b: RasterImage, gain: number): Uint8ClampedArray {
  alike(a, b)
  const { width, height, channels } = a
  const plane = onlyAlphaDiffers(a, b) ? 3 : channels >= 3 ? null : 0
  const out = new Uint8ClampedArray(width * height * 4)
  for (let i = 0; i < width * height; i++) {
    for (let c = 0; c < 3; c++) {
      const at = i * channels + (plane ?? c)
      out[i * 4 + c] = 127.5 + 127.5 * gain * (b.values[at]! - a.values[at]!)
    }
    out[i * 4 + 3] = 255
  }
  return out
}

/** Whether two pictures with alpha have the same colours. */
export function onlyAlphaDiffers(a: RasterImage, b: RasterImage): boolean {
  if (a.channels !== 4) return false
  return a.values.every((value, i) => i % 4 === 3 || value === b.values[i]!)
}

/** A picture to be looked at, without alpha. Shape: RGBA bytes; floats are taken for light and encoded as sRGB. */
export function lookedAt({ width, height, channels, values, float }: RasterImage): Uint8ClampedArray {
  const out = new Uint8ClampedArray(width * height * 4)
  for (let i = 0; i < width * height; i++) {
    for (let c = 0; c < 3; c++) {
      const value = values[i * channels + (channels >= 3 ? c : 0)]!
      out[i * 4 + c] = 255 * (float ? encodeSrgb(Math.min(1, Math.max(0, value))) : value)
    }
    out[i * 4 + 3] = 255
  }
  return out
}

function alike(a: RasterImage, b: RasterImage): void {
  if (a.width !== b.width || a.height !== b.height || a.channels !== b.channels)
    throw new GristError(
      'file-invalid',
      `Expected two pictures alike but received ${a.width} × ${a.height} with ${a.channels} channels and ` +
        `${b.width} × ${b.height} with ${b.channels}.`,
    )
}
