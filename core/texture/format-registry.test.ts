import { depthOf, formatNamed, formatOfBytes, holdsFloats, writtenFormat, writtenFormats } from './format-registry'
import { formats } from './formats/formats.generated'
import { memoryWriter } from './bytes/byte-writer'

test('names, extensions and MIME types are told once', () => {
  const names = formats.flatMap(({ name, alsoKnownAs = [] }) => [name, ...alsoKnownAs])
  expect(new Set(names).size).toBe(names.length)
  for (const { mime, title } of formats) {
    // RFC 6838, section 4.2: type "/" subtype of restricted names.
    expect(mime).toMatch(/^image\/[a-z0-9][a-z0-9.+-]*$/)
    expect(title).not.toBe('')
  }
})

test.each(writtenFormats.map((format) => [format.name, format] as const))(
  '%s: every depth and form is known again by its first bytes and depth',
  async (name, format) => {
    for (const depth of format.write.depths)
      for (const channels of [1, 3, 4] as const) {
        if ((channels === 1 && !format.write.grey) || (channels === 4 && !format.write.alpha)) continue
        const to = memoryWriter()
        const shape = { width: 2, height: 2, channels, depth, srgb: false }
        const encodeJpeg = async () => Uint8Array.of(0xff, 0xd8, 0xff, 0xe0)
        const file = format.write.start(shape, to, { encodeJpeg, compressZstd: async (bytes) => bytes })
        const count = 4 * channels
        const rows = depth.float
          ? new Float32Array(count)
          : depth.bits === 8
            ? new Uint8Array(count)
            : new Uint16Array(count)
        file.add(format.write.code(rows, shape, { top: 0, rows: 2, above: null }, {}), { top: 0, rows: 2 })
        await file.end()
        expect(formatOfBytes(to.bytes().subarray(0, 64))?.name).toBe(name)
        expect(depthOf(format, depth.bits)).toBe(depth)
        expect(holdsFloats({ format: name, bits: depth.bits })).toBe(depth.float)
      }
  },
)

test('an unknown one is refused with the list of known ones', () => {
  expect(() => writtenFormat('webp')).toThrow(/no format "webp" to write. There are: .*png/)
  expect(formatNamed('gone')).toBeUndefined()
  expect(formatOfBytes(new TextEncoder().encode('just a text, and nothing else'))).toBeUndefined()
})
