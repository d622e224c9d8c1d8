/** A picture as JPEG codecs take it. */
export interface JpegShape {
  readonly width: number
  readonly height: number
  /** 1 grey, 3 colour. */
  readonly channels: 1 | 3
}

/** Compresses a whole picture of interleaved bytes. What does it belongs to the host: ITU-T T.81 fixes decoding only. */
export type EncodeJpeg = (pixels: Uint8Array, shape: JpegShape) => Promise<Uint8Array>

/** A picture as a JPEG of it leaves it. */
export type ThroughJpeg = EncodeJpeg
