import { stat } from 'node:fs/promises'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import type { RasterImage } from '#core/field/pyramid'
import type { MipRules } from '#core/texture/mips'
import type { RecordFile } from '#core/texture/record'
import type { TaskFailure } from '../task-outcome'
import { raise } from '../task-outcome'
import type { ImageResult, ImageTask, LibraryImage, MapComparison } from './image-task'
import { openFairQueue } from './fair-queue'
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
  return (await onThread({ source: path, file: path, want: { kind: 'values' } }, info.size)) as RasterImage
}

/** The same from bytes; `file` names them in errors. After `milliseconds` it gives up. */
export const decodeImage = async (bytes: Buffer, file: string, milliseconds?: number): Promise<RasterImage> =>
  (await onThread(
    { source: new Uint8Array(bytes), file, want: { kind: 'values' } },
    bytes.length,
    'here',
    milliseconds,
  )) as RasterImage

/**
 * Decodes a file for the library; its texels are written to the file `raster` as plain bytes (as rasterBytes has them), so
 * that nothing but storing is left to do. `client` is whose turn it takes. Throws as readImage.
 */
export async function decodeForLibrary(
  path: string,
  raster: string,
  { file, bytes, client }: { file: string; bytes: number; client: string },
): Promise<LibraryImage> {
  return (await onThread({ source: path, file, want: { kind: 'library', raster } }, bytes, client)) as LibraryImage
}

/** A small PNG of a file. Throws as readImage. */
export const thumbnailOf = async (bytes: Buffer, file: string): Promise<Uint8Array> =>
  (await onThread({ source: new Uint8Array(bytes), file, want: { kind: 'thumbnail' } }, bytes.length)) as Uint8Array

/** A file's mip level, made as its slots want it. Throws as readImage. */
export const decodeMip = async (
  bytes: Buffer,
  file: string,
  { level, ...rules }: MipRules & { level: number },
): Promise<RasterImage> =>
  (await onThread(
    { source: new Uint8Array(bytes), file, want: { kind: 'mip', level, ...rules } },
    bytes.length,
  )) as RasterImage

/** Compares two files of one map; where no gain is given, one that fits is taken. Throws as readImage; file-invalid where they cannot be compared. */
export const compareImages = async (
  before: { bytes: Buffer; file: RecordFile },
  after: { bytes: Buffer; file: RecordFile },
  gain: number | null,
): Promise<MapComparison> =>
  (await onThread(
    {
      source: new Uint8Array(before.bytes),
      file: before.file.name,
      want: {
        kind: 'comparison',
        with: { ...rulesOf(after.file), bytes: new Uint8Array(after.bytes), file: after.file.name },
        rules: rulesOf(before.file),
        gain,
      },
    },
    before.bytes.length + after.bytes.length,
  )) as MapComparison

const rulesOf = ({ transfer, slots }: RecordFile): MipRules => ({ transfer, slots })

/** Images that are decoded at the same time: a bad one holds up half of them at most. */
const THREADS = 2
const turns = openFairQueue(THREADS)
let pool: ReturnType<typeof openPool> | undefined

/** What decoding may take: a start, and a second for every 2 MB. The clock starts with the work, not with waiting. */
const timeFor = (bytes: number): number => Math.min(LIMITS.image.milliseconds, 10_000 + Math.ceil(bytes / 2048))

/** On a thread of its own, which is ended when it takes too long or too much memory. */
async function onThread(
  task: ImageTask,
  bytes: number,
  client = 'here',
  milliseconds: number = timeFor(bytes),
): Promise<ImageResult> {
  pool ??= openPool('image-worker', THREADS, { idleTimeout: 5000, resourceLimits: { maxOldGenerationSizeMb: 512 } })
  const threads = pool
  return turns.run(client, async () => {
    const signal = AbortSignal.timeout(milliseconds)
    try {
      const outcome = (await threads.run(task, { signal })) as ImageResult | TaskFailure
      if ('error' in outcome) return raise(outcome)
      return outcome
    } catch (error) {
      if (error instanceof GristError) throw error
      const words = signal.aborted
        ? 'Reading the image took too long.'
        : `The image could not be read: ${(error as Error).message}`
      throw new GristError('file-invalid', words, { file: task.file })
    }
  })
}
