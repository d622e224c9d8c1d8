import type { DisplayBytes } from '#core/preview/display'

/** Bytes of the file's and the picture's header. Source: BITMAPFILEHEADER and BITMAPINFOHEADER of the BMP format. */
const HEADER = 54

/** A picture as an uncompressed BMP of 24 bits, which every browser shows at once. Alpha is left out. */
export function bitmapOf({ width, height, pixels }: DisplayBytes): Blob {
  const row = Math.ceil((width * 3) / 4) * 4
  const bytes = new Uint8Array(HEADER + row * height)
  const view = new DataView(bytes.buffer)
  view.setUint16(0, 0x424d)
  view.setUint32(2, bytes.length, true)
  view.setUint32(10, HEADER, true)
  view.setUint32(14, 40, true)
  view.setInt32(18, width, true)
  // Negative: the first row is the topmost.
  view.setInt32(22, -height, true)
  view.setUint16(26, 1, true)
  view.setUint16(28, 24, true)
  for (let y = 0; y < height; y++)
    for (let x = 0, from = y * width * 4, to = HEADER + y * row; x < width; x++, from += 4, to += 3) {
      bytes[to] = pixels[from + 2]!
      bytes[to + 1] = pixels[from + 1]!
      bytes[to + 2] = pixels[from]!
    }
  return new Blob([bytes], { type: 'image/bmp' })
}
