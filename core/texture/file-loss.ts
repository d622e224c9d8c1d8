import type { RasterImage } from '../field/pyramid'
import { differencePicture, fittingGain } from './compare'
import { depthOf, writtenFormat } from './format-registry'
import { exactRows } from './code-band'
import type { PackWhole } from './pack-image'
import type { PackedFile } from './packing'

/** What is lost between the numbers that a file should hold and those that its reader finds. */
export interface FileLoss {
  /** Root of the mean square over the planes that are held, and the largest: of 1, of floats of the largest number. 0 where nothing is lost. */
  readonly rms: number
  readonly largest: number
}

/** A file with nothing rounded, dithered or compressed: its numbers, held to 0–1 where it holds whole ones. Whole fields. */
export function exactImage(
  file: PackedFile,
  { width, height, channels: known, fields, heightMetres }: PackWhole,
): RasterImage {
  const depth = depthOf(writtenFormat(file.format), file.bits)!
  const channels = file.slots.length as 1 | 3 | 4
  const shape = { width, height, channels, depth, srgb: file.transfer === 'srgb' }
  const plan = { file, shape, channels: known, heightMetres, dither: false }
  const values = exactRows(plan, fields, 0, height)
  const { float } = depth
  if (!float)
    for (let i = 0; i < values.length; i++) {
      const v = values[i]!
      if (v < 0) values[i] = 0
      else if (v > 1) values[i] = 1
    }
  return { width, height, channels, values, bits: 32, float }
}

/** How far a file is from what it should hold. Both of one size and of as many planes. */
export function fileLoss(exact: RasterImage, read: RasterImage, { block }: Pick<PackedFile, 'block'> = {}): FileLoss {
  const { channels, values } = exact
  // Of a normal in blocks of two channels the third is worked out.
  const held = block === 'bc5' ? 2 : channels
  let squares = 0
  let largest = 0
  for (let i = 0; i < values.length; i += channels)
    for (let c = i; c < i + held; c++) {
      const off = Math.abs(values[c]! - read.values[c]!)
      squares += off * off
      if (off > largest) largest = off
    }
  const peak = exact.float ? values.reduce((most, v) => Math.max(most, Math.abs(v)), 0) : 1
  if (largest === 0 || peak === 0) return { rms: 0, largest: 0 }
  const noise = squares / ((values.length / channels) * held)
  return { rms: Math.sqrt(noise) / peak, largest: largest / peak }
}

/** The difference as a picture (differencePicture), amplified as much as fits. */
export function lossPicture(exact: RasterImage, read: RasterImage): { pixels: Uint8ClampedArray; gain: number } {
  const gain = fittingGain(fileLoss(exact, read))
  return { pixels: differencePicture(exact, read, gain), gain }
}
