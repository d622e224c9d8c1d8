import { FloatType } from 'three'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js'
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import type { RasterImage } from '#core/field/pyramid'
import type { TaskFailure } from '../task-outcome'

/** Formats read by JavaScript loaders of three, which trust their input: they run on a thread of their own. */
export type LoaderKind = 'exr' | 'hdr' | 'tga'
export type LoaderOutcome = RasterImage | TaskFailure

/** Throws file-unsupported for pictures beyond the limits; called before anything is allocated. */
export function checkSize(width: number, height: number): void {
  const { side, texels } = LIMITS.image
  if (!(width >= 1 && height >= 1 && width <= side && height <= side && width * height <= texels))
    throw new GristError(
      'file-unsupported',
      `Expected at most ${side} texels a side and ${texels} in all but received ${width} × ${height}.`,
    )
}

const arrayBuffer = (bytes: Buffer): ArrayBuffer => {
  const copy = new ArrayBuffer(bytes.length)
  new Uint8Array(copy).set(bytes)
  return copy
}

function readExr(bytes: Buffer): RasterImage {
  checkSize(...exrSize(bytes))
  const loader = new EXRLoader()
  loader.setDataType(FloatType)
  const parsed = loader.parse(arrayBuffer(bytes)) as unknown as { width: number; height: number; data: Float32Array }
  return floats(parsed, true)
}

/** The data window, read before anything is allocated. Source: OpenEXR File Layout. */
function exrSize(bytes: Buffer): [number, number] {
  const at = bytes.subarray(0, 1 << 16).indexOf('dataWindow\0box2i\0', 0, 'latin1')
  if (at < 0 || at + 37 > bytes.length) throw new GristError('file-invalid', 'The EXR file has no data window.')
  const [x0, y0, x1, y1] = [0, 4, 8, 12].map((i) => bytes.readInt32LE(at + 21 + i)) as [number, number, number, number]
  return [x1 - x0 + 1, y1 - y0 + 1]
}

function readHdr(bytes: Buffer): RasterImage {
  const size = /\n-Y (\d{1,6}) \+X (\d{1,6})\n/.exec(bytes.toString('latin1', 0, 4096))
  if (!size) throw new GristError('file-invalid', 'Expected a size line "-Y height +X width".')
  checkSize(Number(size[2]), Number(size[1]))
  const loader = new HDRLoader()
  loader.setDataType(FloatType)
  const parsed = loader.parse(arrayBuffer(bytes)) as unknown as { width: number; height: number; data: Float32Array }
  return floats(parsed, false)
}

function floats(parsed: { width: number; height: number; data: Float32Array }, bottomUp: boolean): RasterImage {
  const { width, height, data } = parsed
  const channels = (data.length / (width * height)) as 1 | 4
  if (channels !== 1 && channels !== 4) throw new GristError('file-invalid', 'The texels do not fill the picture.')
  const row = width * channels
  const values = new Float32Array(data.length)
  for (let y = 0; y < height; y++) {
    const from = (bottomUp ? height - 1 - y : y) * row
    for (let i = 0; i < row; i++) {
      const v = data[from + i]!
      values[y * row + i] = Number.isFinite(v) ? v : 0
    }
  }
  return { width, height, channels, values, bits: 32, float: true }
}

function readTga(bytes: Buffer): RasterImage {
  const width = bytes.readUInt16LE(12)
  const height = bytes.readUInt16LE(14)
  checkSize(width, height)
  const parsed = new TGALoader().parse(arrayBuffer(bytes)) as unknown as { data: Uint8Array } | undefined
  if (!parsed?.data || parsed.data.length !== width * height * 4)
    throw new GristError('file-invalid', 'The texels do not fill the picture.')
  const opaque = bytes[16] !== 32
  const channels = opaque ? 3 : 4
  const values = new Float32Array(width * height * channels)
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < channels; c++) values[i * channels + c] = parsed.data[i * 4 + c]! / 255
  return { width, height, channels, values, bits: 8, float: false }
}

/** Reads one image. Throws file-invalid, file-unsupported, and whatever the loaders throw. */
export const LOADERS: Record<LoaderKind, (bytes: Buffer) => RasterImage> = { exr: readExr, hdr: readHdr, tga: readTga }
