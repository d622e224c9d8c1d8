import type { RasterImage } from '../field/pyramid'
import { differencePicture, fittingGain } from './compare'
import { depthOf, writtenFormat } from './format-registry'
import type { PackWhole } from './pack-image'
import { packRows } from './pack-rows'
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
  { width, height, channels, fields, heightMetres }: PackWhole,
): RasterImage {
  const { float } = depthOf(writtenFormat(file.format), file.bits)!
  const ranges = file.slots.map(() => ({ min: Infinity, max: -Infinity }))
  const values = packRows(file, { channels, fields, top: 0, rows: height, width, float, heightMetres }, ranges)
  if (!float) for (let i = 0; i < values.length; i++) values[i] = Math.min(1, Math.max(0, values[i]!))
  return { width, height, channels: file.slots.length as RasterImage['channels'], values, bits: 32, float }
}

/** How far a file is from what it should hold. Both of one size and of as many planes. */
export function fileLoss(exact: RasterImage, read: RasterImage, { block }: Pick<PackedFile, 'block'> = {}): FileLoss {
  const { channels, values } = exact
  // Of a normal in blocks of two channels the third is worked out.
  const held = block === 'bc5' ? 2 : channels
  let squares = 0
  let largest = 0
  let peak = exact.float ? 0 : 1
  for (let i = 0; i < values.length; i++) {
    if (exact.float) peak = Math.max(peak, Math.abs(values[i]!))
    if (i % channels >= held) continue
    const off = Math.abs(values[i]! - read.values[i]!)
    squares += off * off
    if (off > largest) largest = off
  }
  if (largest === 0 || peak === 0) return { rms: 0, largest: 0 }
  const noise = squares / ((values.length / channels) * held)
  return { rms: Math.sqrt(noise) / peak, largest: largest / peak }
}

/** The difference as a picture (differencePicture), amplified as much as fits. */
export function lossPicture(exact: RasterImage, read: RasterImage): { pixels: Uint8ClampedArray; gain: number } {
  const gain = fittingGain(fileLoss(exact, read))
  return { pixels: differencePicture(exact, read, gain), gain }
}
