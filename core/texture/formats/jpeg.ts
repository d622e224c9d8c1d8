import type { RowWriter, Sink } from './byte-writer'

export interface JpegShape {
  readonly width: number
  readonly height: number
  /** 1 grey, 3 colour. */
  readonly channels: 1 | 3
}

/** Compresses a whole picture of interleaved bytes. What does it belongs to the host: ITU-T T.81 fixes decoding only. */
export type EncodeJpeg = (pixels: Uint8Array, shape: JpegShape) => Promise<Uint8Array>

/** Writes a JPEG. Holds the picture until its last row, as the encoders at hand take it whole. */
export function startJpeg(shape: JpegShape, sink: Sink, encode: EncodeJpeg): RowWriter<Uint8Array> {
  const pixels = new Uint8Array(shape.width * shape.height * shape.channels)
  let at = 0
  return {
    rows(values) {
      pixels.set(values, at)
      at += values.length
    },
    async end() {
      if (at !== pixels.length) throw new RangeError(`Expected ${pixels.length} values but received ${at}.`)
      sink.append(await encode(pixels, shape))
    },
  }
}
