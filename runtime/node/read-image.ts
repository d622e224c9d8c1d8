import { readFile, stat } from 'node:fs/promises'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import type { RasterImage } from '#core/field/pyramid'
import type { RasterShape } from '#core/field/raster'
import type { Comparison } from '#core/maps/compare'
import type { MipRules } from '#core/maps/mips'
import type { RecordFile } from '#core/maps/record'
import type { TaskFailure } from '../task-outcome'
import { raise } from '../task-outcome'
import type { ImageResult, ImageTask } from './image-worker'
import { openPool } from './pool'

/**
 * Reads PNG, JPEG, WebP, EXR, Radiance HDR and TGA. What the file is, its first bytes say, not its name.
 * Throws asset-missing, file-unsupported, file-invalid.
 */
export async function readImage(path: string): Promise<RasterImage> {
  const info = await stat(path).catch(() => null)
  if (!info?.isFile()) throw new GristError('asset-missing', 'There is no such file.', { file: path })
  if (info.size > LIMITS.image.bytes)
    throw new GristError(
      'file-unsupported',
      `Expected at most ${LIMITS.image.bytes >> 20} MB but the file has ${info.size >> 20} MB.`,
      { file: path },
    )
  return decodeImage(await readFile(path), path)
}

/** The same from bytes; `file` names them in errors. After `milliseconds` it gives up. */
export const decodeImage = async (bytes: Buffer, file: string, milliseconds?: number): Promise<RasterImage> =>
  (await onThread({ bytes, file, want: { kind: 'values' } }, milliseconds)) as RasterImage

/** An image as the library keeps it: its shape, its texels as plain bytes, and a small PNG. */
export interface LibraryImage extends RasterShape {
  readonly raster: Uint8Array
  readonly thumbnail: Uint8Array
}

/** Decodes for the library, so that nothing but storing is left to do. Throws as readImage. */
export const decodeForLibrary = async (bytes: Buffer, file: string): Promise<LibraryImage> =>
  (await onThread({ bytes, file, want: { kind: 'library' } })) as LibraryImage

/** A file's mip level, made as its slots want it. Throws as readImage. */
export const decodeMip = async (
  bytes: Buffer,
  file: string,
  { level, ...rules }: MipRules & { level: number },
): Promise<RasterImage> => (await onThread({ bytes, file, want: { kind: 'mip', level, ...rules } })) as RasterImage

/** How far two files are apart, at the size of the smaller, and a PNG of it. */
export interface MapComparison extends Comparison {
  readonly width: number
  readonly height: number
  readonly picture: Uint8Array
}

/** Compares two files of one map. Throws as readImage; file-invalid where they cannot be compared. */
export const compareImages = async (
  before: { bytes: Buffer; file: RecordFile },
  after: { bytes: Buffer; file: RecordFile },
  gain: number,
): Promise<MapComparison> =>
  (await onThread({
    bytes: before.bytes,
    file: before.file.name,
    want: {
      kind: 'comparison',
      with: { ...rulesOf(after.file), bytes: new Uint8Array(after.bytes), file: after.file.name },
      rules: rulesOf(before.file),
      gain,
    },
  })) as MapComparison

const rulesOf = ({ transfer, slots }: RecordFile): MipRules => ({ transfer, slots })

let pool: ReturnType<typeof openPool> | undefined

/** On a thread of its own, which is ended when it takes too long or too much memory. */
async function onThread(task: ImageTask, milliseconds: number = LIMITS.image.milliseconds): Promise<ImageResult> {
  pool ??= openPool('image-worker', 1, { idleTimeout: 5000, resourceLimits: { maxOldGenerationSizeMb: 2048 } })
  const signal = AbortSignal.timeout(milliseconds)
  try {
    const outcome = (await pool.run({ ...task, bytes: new Uint8Array(task.bytes) }, { signal })) as
      ImageResult | TaskFailure
    if ('error' in outcome) return raise(outcome)
    return outcome
  } catch (error) {
    if (error instanceof GristError) throw error
    const words = signal.aborted
      ? 'Reading the image took too long.'
      : `The image could not be read: ${(error as Error).message}`
    throw new GristError('file-invalid', words, { file: task.file })
  }
}
