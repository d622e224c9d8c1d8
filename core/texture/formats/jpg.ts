import { EIGHT, beginsWith } from '../file-format'
import type { FileFormat, FileShape } from '../file-format'
import type { EncodeJpeg, JpegShape } from '../jpeg-codec'
import { GristError } from '../../errors'
import type { RowWriter, ByteWriter } from '../bytes/byte-writer'

/** Writes a JPEG. Holds the picture until its last row, as the encoders at hand take it whole. */
export function startJpeg(shape: JpegShape, writer: ByteWriter, encode: EncodeJpeg): RowWriter<Uint8Array> {
  const pixels = new Uint8Array(shape.width * shape.height * shape.channels)
  let at = 0
  return {
    rows(values) {
      pixels.set(values, at)
      at += values.length
    },
    async end() {
      if (at !== pixels.length) throw new RangeError(`Expected ${pixels.length} values but received ${at}.`)
      writer.append(await encode(pixels, shape))
    },
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
    start: (shape, to, { encodeJpeg }) => {
      if (!encodeJpeg) throw new GristError('packing-invalid', 'JPEG files cannot be written here.')
      return startJpeg(shapeOf(shape), to, encodeJpeg)
    },
    readBack: async (steps, shape, { throughJpeg }) => (throughJpeg ? throughJpeg(steps, shapeOf(shape)) : steps),
  },
}
export default jpg
