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
 * less, `gain` times as much as it is. Shape: RGBA bytes, top row first; grey pictures in all three.
 */
export function differencePicture(a: RasterImage, b: RasterImage, gain: number): Uint8ClampedArray {
  alike(a, b)
  const { width, height, channels } = a
  const colours = channels >= 3 ? 3 : 1
  const out = new Uint8ClampedArray(width * height * 4)
  for (let i = 0; i < width * height; i++) {
    for (let c = 0; c < 3; c++) {
      const at = i * channels + (colours === 3 ? c : 0)
      out[i * 4 + c] = 127.5 + 127.5 * gain * (b.values[at]! - a.values[at]!)
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
