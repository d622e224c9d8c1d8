import { deflateRawSync, inflateSync } from 'node:zlib'
import fc from 'fast-check'
import { withoutSimd } from '../../kernels/simd'
import { ZLIB_HEAD, adler32, adlerOfBoth, bigEndian, joined, plainDeflate, zlibOf } from './deflate'
import { crc32 } from './png-rows'

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text)
const some = fc.uint8Array({ maxLength: 3000 })

test('checksums of the published words', () => {
  // The check value of CRC-32 in the catalogues of polynomials (ITU-T V.42, as RFC 1952): that of "123456789".
  expect(crc32(bytesOf('123456789'))).toBe(0xcbf43926)
  // W3C Portable Network Graphics, section 11.2.5: the last chunk of every file, IEND, has this one.
  expect(crc32(bytesOf('IEND'))).toBe(0xae426082)
  // RFC 1950, section 2.2: a of 1 + 97 + 98 + 99, b of 98 + 196 + 295.
  expect(adler32(bytesOf('abc'))).toBe(589 * 65536 + 295)
  expect(adler32(new Uint8Array(0))).toBe(1)
})

test('a checksum of many bytes is the same by the twin as byte by byte', () => {
  fc.assert(fc.property(some, (bytes) => expect(crc32(bytes)).toBe(withoutSimd(() => crc32(bytes)))))
})

test('the checksum of two runs together is that of all', () => {
  fc.assert(
    fc.property(some, some, (a, b) =>
      expect(adlerOfBoth(adler32(a), adler32(b), b.length)).toBe(adler32(joined([a, b]))),
    ),
  )
  const long = new Uint8Array(200_000).fill(255)
  expect(adlerOfBoth(adler32(long), adler32(long), long.length)).toBe(adler32(joined([long, long])))
})

test.each(['default', 'filtered', 'huffman', 'rle'] as const)(
  '%s: pieces that were compressed apart are one stream that zlib reads',
  (strategy) => {
    fc.assert(
      fc.property(fc.array(some, { minLength: 1, maxLength: 4 }), (pieces) => {
        const coded = pieces.map((piece, i) =>
          plainDeflate(piece, { level: 3, strategy, isLast: i === pieces.length - 1 }),
        )
        const all = joined(pieces)
        const stream = joined([ZLIB_HEAD, ...coded, bigEndian(adler32(all))])
        expect([...inflateSync(stream)]).toEqual([...all])
      }),
      { numRuns: 40 },
    )
  },
)

test('a whole stream is read by zlib, whoever compresses', () => {
  const bytes = bytesOf('setts and silt, '.repeat(90))
  const how = { level: 3, strategy: 'default' } as const
  for (const deflate of [plainDeflate, (one: Uint8Array) => new Uint8Array(deflateRawSync(one))])
    expect([...inflateSync(zlibOf(bytes, deflate, how))]).toEqual([...bytes])
})
