/** An image of the demo: made by our own code, so that nothing is borrowed. */
export interface MadeImage {
  /** Its name in demo/images. */
  readonly file: string
  readonly width: number
  readonly height: number
  readonly channels: 3 | 4
  /** sRGB-encoded values, interleaved, top row first; alpha straight. */
  make(): Uint8Array | Promise<Uint8Array>
}
