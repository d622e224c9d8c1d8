import fc from 'fast-check'
import { READ_BYTES, fractionOf, newRead, packRead, unpackRead } from './reads'

test('a read holds a place to the half of its last bit, and a turn to 1/10 000', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 16384 }),
      fc.tuple(...Array.from({ length: 3 }, () => fc.double({ min: 0, max: 1, noNaN: true }))),
      fc.boolean(),
      (size, [across, down, turn], isMirrored) => {
        const fraction = fractionOf(size, Math.ceil(size / 3))
        const [x, y] = [across! * (size - 1), down! * (Math.ceil(size / 3) - 1)]
        const [cosine, sine] = [Math.cos(turn! * 2 * Math.PI), Math.sin(turn! * 2 * Math.PI)]
        const reads = new Uint8Array(2 * READ_BYTES)
        packRead(reads, 1, fraction, { x, y, cosine, sine, mirror: isMirrored ? -1 : 1 })
        const read = unpackRead(reads, 1, fraction, newRead())
        expect(Math.max(Math.abs(read.x - x), Math.abs(read.y - y))).toBeLessThanOrEqual(2 ** -(fraction + 1))
        expect(Math.max(Math.abs(read.cosine - cosine), Math.abs(read.sine - sine))).toBeLessThan(1e-4)
        expect(read.mirror).toBe(isMirrored ? -1 : 1)
      },
    ),
  )
})

test.each([
  // Width, bits below the point: 8192 texels and 7 bits, as 2048 and 9, take 20 bits.
  [8192, 7],
  [2048, 9],
  [2049, 8],
  [1, 20],
])('a picture %i texels wide leaves %i bits below the point', (width, bits) => {
  expect(fractionOf(width, 1)).toBe(bits)
  expect(fractionOf(1, width)).toBe(bits)
})

test('texels, quarter turns and the last corner are held exactly', () => {
  const reads = new Uint8Array(READ_BYTES)
  for (const [cosine, sine] of [[1, 0] as const, [0, 1] as const, [-1, 0] as const, [0, -1] as const]) {
    const read = { x: 8191, y: 8190.5, cosine, sine, mirror: 1 }
    packRead(reads, 0, 7, read)
    const { x, y, ...turn } = unpackRead(reads, 0, 7, newRead())
    expect([x, y]).toEqual([8191, 8190.5])
    expect(turn.cosine).toBeCloseTo(cosine, 15)
    expect(turn.sine).toBeCloseTo(sine, 15)
  }
})
