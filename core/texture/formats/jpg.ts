import { EIGHT, beginsWith } from '../file-format'
import type { FileAssembler, FileFormat, FileShape } from '../file-format'
import type { EncodeJpeg, JpegShape } from '../jpeg-codec'
import { GristError } from '../../errors'
import type { ByteWriter } from '../bytes/byte-writer'

/** Puts a JPEG together. Holds the picture until its last row, as the encoders at hand take it whole. */
function assembleJpeg(shape: JpegShape, to: ByteWriter, encode: EncodeJpeg): FileAssembler {
  const pixels = new Uint8Array(shape.width * shape.height * shape.channels)
  let at = 0
  return {
    add: ({ parts }) => {
      for (const part of parts) {
        pixels.set(part, at)
        at += part.length
      }
    },
    end: async () => to.append(await encode(pixels, shape)),
  }
}

const shapeOf = ({ width, height, channels }: FileShape): JpegShape => ({
  width,
  height,
  channels: channels === 1 ? 1 : 3,
})

const jpg: FileFormat = {
  name: 'jpg',
  title: 'JPEG',
  mime: 'image/jpeg',
  alsoKnownAs: ['jpeg'],
  isOf: (head) => beginsWith(head, 0xff, 0xd8, 0xff),
  reader: 'native',
  lossy: true,
  write: {
    depths: [EIGHT],
    grey: true,
    alpha: false,
    blockRows: 1,
    code: (rows) => ({ parts: [rows as Uint8Array] }),
    start: (shape, to, { encodeJpeg }) => {
      if (!encodeJpeg) throw new GristError('packing-invalid', 'JPEG files cannot be written here.')
      return assembleJpeg(shapeOf(shape), to, encodeJpeg)
    },
    readBack: async (steps, shape, { throughJpeg }) => (throughJpeg ? throughJpeg(steps, shapeOf(shape)) : steps),
  },
}
export default jpg
