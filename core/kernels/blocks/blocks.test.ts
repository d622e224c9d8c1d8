import { readFileSync } from 'node:fs'
import sharp from 'sharp'
import { readWithOiio } from '../../testing/oiio'
import { hash32 } from '../../random'
import type { BlockKind } from './blocks'
import { BLOCK_CHANNELS, BLOCK_KINDS, blockBytes } from './blocks'
import { decodeBlocks } from './decode-blocks'
import { BLOCK_QUALITIES } from './blocks'
import { encodeBlocks } from './encode-blocks'

/** A DDS of one level around blocks, as plain as can be. Source: Microsoft, "Programming Guide for DDS". */
function ddsOf(kind: BlockKind, blocks: Uint8Array, width: number, height: number): Uint8Array {
  const codes = { bc1: 'DXT1', bc3: 'DXT5', bc4: 'ATI1', bc5: 'ATI2', bc7: 'DX10' }
  const file = new Uint8Array((kind === 'bc7' ? 148 : 128) + blocks.length)
  const head = new DataView(file.buffer)
  const put = (at: number, value: number): void => head.setUint32(at, value, true)
  const values = [0x20534444, 124, 0x81007, height, width, blocks.length, 0, 1]
  values.forEach((value, i) => put(4 * i, value))
  put(76, 32)
  put(80, 4)
  for (let i = 0; i < 4; i++) file[84 + i] = codes[kind].charCodeAt(i)
  put(108, 0x1000)
  if (kind === 'bc7') [98, 3, 0, 1].forEach((value, i) => put(128 + 4 * i, value))
  file.set(blocks, file.length - blocks.length)
  return file
}

/** What OpenImageIO makes of blocks: bytes, interleaved. */
function decodedByOiio(kind: BlockKind, blocks: Uint8Array, width: number, height: number): Uint8Array {
  const { planes } = readWithOiio(ddsOf(kind, blocks, width, height), 'dds')
  const channels = BLOCK_CHANNELS[kind]
  const out = new Uint8Array(width * height * channels).fill(255)
  for (const [c, plane] of planes.slice(0, channels).entries())
    plane.forEach((v, i) => (out[i * channels + c] = Math.round(v * 255)))
  return out
}

/** Peak signal to noise in dB over channels of the blocks and of RGBA texels. */
function psnr(decoded: Uint8Array, kind: BlockKind, rgba: Uint8Array, channels: readonly number[]): number {
  const each = BLOCK_CHANNELS[kind]
  let squares = 0
  for (let i = 0; i < rgba.length / 4; i++)
    for (const c of channels) squares += (decoded[i * each + c]! - rgba[i * 4 + c]!) ** 2
  return 10 * Math.log10(65025 / (squares / ((rgba.length / 4) * channels.length)))
}

test.each(BLOCK_KINDS)('%s: any bytes decode as OpenImageIO decodes them', (kind) => {
  const [width, height] = [64, 64]
  const blocks = Uint8Array.from(
    { length: blockBytes(kind, width, height) },
    (_, i) => hash32(i * 5 + kind.length * 9 + BLOCK_KINDS.indexOf(kind)) & 255,
  )
  // Each mode of BC7 as often as the others.
  if (kind === 'bc7')
    for (let b = 0; b < blocks.length / 16; b++) blocks[b * 16] = (blocks[b * 16]! & (0xfe << (b % 8))) | (1 << (b % 8))
  const [own, other] = [decodeBlocks(kind, blocks, width, height), decodedByOiio(kind, blocks, width, height)]
  let off = 0
  own.forEach((v, i) => (off = Math.max(off, Math.abs(v - other[i]!))))
  // Tones between ends: the specification rounds to the nearest, OpenImageIO lower.
  expect(off).toBeLessThanOrEqual(kind === 'bc7' ? 0 : 1)
})

describe('encoders, decoded by OpenImageIO', () => {
  const [width, height] = [640, 424]
  /** A photograph of Debian's python3-sklearn (sklearn.datasets.load_sample_image), with its green as alpha. */
  const photograph = async (): Promise<Uint8Array> => {
    const file = readFileSync('/usr/lib/python3/dist-packages/sklearn/datasets/images/flower.jpg')
    const pixels = await sharp(file).extract({ left: 0, top: 0, width, height }).ensureAlpha().raw().toBuffer()
    for (let i = 0; i < width * height; i++) pixels[4 * i + 3] = pixels[4 * i + 1]!
    return new Uint8Array(pixels)
  }
  /** Normals of a bumpy surface of our own. */
  const normals = (): Uint8Array => {
    const out = new Uint8Array(width * height * 4)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [a, b] = [Math.cos(x * 0.11 + Math.sin(y * 0.05)) * 0.5, Math.sin(y * 0.09 + x * 0.03) * 0.5]
        const length = Math.hypot(a, b, 1)
        out.set(
          [a, b, 1, 1].map((v, c) => Math.round(c === 3 ? 255 : (v / length) * 127.5 + 127.5)),
          (y * width + x) * 4,
        )
      }
    return out
  }
  /** Discs with an edge of a texel. */
  const mask = (): Uint8Array =>
    Uint8Array.from({ length: width * height * 4 }, (_, i) => {
      const [x, y] = [(i >> 2) % width, Math.floor((i >> 2) / width)]
      const inside = Math.min(1, Math.max(0, 14.5 - Math.hypot((x % 48) - 24, (y % 40) - 20)))
      return i % 4 === 3 ? 255 : Math.round(inside * 255)
    })
  const opaque = (rgba: Uint8Array): Uint8Array => rgba.map((v, i) => (i % 4 === 3 ? 255 : v))
  const colours = async (): Promise<Uint8Array> => opaque(await photograph())
  const gates: [string, BlockKind, () => Promise<Uint8Array> | Uint8Array, number[], number][] = [
    ['colour of a photograph', 'bc1', colours, [0, 1, 2], 35.4],
    ['alpha of a photograph', 'bc3', () => photograph(), [3], 45.2],
    ['a grey', 'bc4', () => photograph(), [0], 47.0],
    ['two channels of normals', 'bc5', normals, [0, 1], 40.5],
    ['colour of a photograph', 'bc7', colours, [0, 1, 2], 44.5],
    ['normals', 'bc7', normals, [0, 1, 2], 44.5],
    ['a hard mask', 'bc7', mask, [0, 1, 2], 44.5],
  ]
  test.each(gates)('%s in %s at best', async (_, kind, make, channels, gate) => {
    // What is alike all over is looked at in part.
    const rows = kind === 'bc7' && make !== colours ? 80 : height
    const rgba = (await make()).subarray(0, rows * width * 4)
    const decoded = decodedByOiio(kind, encodeBlocks(kind, rgba, width, rows, 'best'), width, rows)
    expect(psnr(decoded, kind, rgba, channels)).toBeGreaterThanOrEqual(gate)
  })

  test('a photograph in bc7, with alpha: nearer than by bc3 by some dB', async () => {
    // The middle of the flower alone, where most is going on: the whole at best takes a while (bench/BLOCKS.md).
    const [left, top, side] = [300, 60, 160]
    const whole = await photograph()
    const crop = new Uint8Array(side * side * 4)
    for (let y = 0; y < side; y++)
      crop.set(whole.subarray(((top + y) * width + left) * 4, ((top + y) * width + left + side) * 4), y * side * 4)
    const nearness = (kind: BlockKind, rgba: Uint8Array, channels: number[]): number =>
      psnr(decodedByOiio(kind, encodeBlocks(kind, rgba, side, side, 'best'), side, side), kind, rgba, channels)
    expect(nearness('bc7', crop, [0, 1, 2, 3]) - nearness('bc3', crop, [0, 1, 2, 3])).toBeGreaterThan(3)
  })

  test.each(BLOCK_KINDS)('%s: each quality is at least as near as the one before', async (kind) => {
    const rgba = (await photograph()).subarray(0, width * 32 * 4)
    const channels = { bc1: [0, 1, 2], bc3: [0, 1, 2, 3], bc4: [0], bc5: [0, 1], bc7: [0, 1, 2, 3] }[kind]
    const found = BLOCK_QUALITIES.map((quality) =>
      psnr(decodeBlocks(kind, encodeBlocks(kind, rgba, width, 32, quality), width, 32), kind, rgba, channels),
    )
    expect(found).toEqual([...found].sort((a, b) => a - b))
  })
})

test('flat blocks of any grey are exact in BC4, BC5 and BC7, and within 2 of 255 in BC1, by both decoders', () => {
  const [width, height] = [256 * 4, 4]
  const rgba = Uint8Array.from({ length: width * height * 4 }, (_, i) => ((i >> 2) % width) >> 2)
  for (const kind of BLOCK_KINDS) {
    const encoded = encodeBlocks(kind, rgba, width, height, 'best')
    for (const decoded of [decodeBlocks(kind, encoded, width, height), decodedByOiio(kind, encoded, width, height)]) {
      let off = 0
      // BC1 has no alpha but opaque.
      decoded.forEach((v, i) => {
        if (kind === 'bc1' && i % 4 === 3) return
        off = Math.max(off, Math.abs(v - ((Math.floor(i / BLOCK_CHANNELS[kind]) % width) >> 2)))
      })
      expect([kind, off <= (kind === 'bc1' || kind === 'bc3' ? 2 : 0)]).toEqual([kind, true])
    }
  }
})

test.each(BLOCK_KINDS)(
  '%s: blocks do not depend on what stands beside them, nor on how many rows go in at once',
  (kind) => {
    const [width, rows] = [24, 16]
    const rgba = Uint8Array.from({ length: width * rows * 4 }, (_, i) => hash32(i * 7 + kind.length) & 255)
    const whole = encodeBlocks(kind, rgba, width, rows, 'normal')
    const bands = [0, 4, 8, 12].map((y) =>
      encodeBlocks(kind, rgba.slice(y * width * 4, (y + 4) * width * 4), width, 4, 'normal'),
    )
    expect(Buffer.concat(bands).equals(whole)).toBe(true)
  },
)

test('sides that are no multiples of 4 repeat their last texels; ends of the range are kept in BC4', () => {
  const [width, rows] = [6, 5]
  const rgba = Uint8Array.from({ length: width * rows * 4 }, (_, i) => (Math.floor(i / 4) % width) * 40)
  for (const kind of BLOCK_KINDS) {
    const encoded = encodeBlocks(kind, rgba, width, rows, 'normal')
    expect(encoded).toHaveLength(blockBytes(kind, width, rows))
    const decoded = decodeBlocks(kind, encoded, width, rows)
    expect(Math.abs(decoded[(rows * width - 1) * BLOCK_CHANNELS[kind]]! - 200)).toBeLessThan(10)
  }
  const ends = Uint8Array.from({ length: 64 }, (_, i) => [0, 255, 118, 130][(i >> 2) % 4]!)
  const decoded = decodeBlocks('bc4', encodeBlocks('bc4', ends, 4, 4, 'normal'), 4, 4)
  expect([decoded[0], decoded[1]]).toEqual([0, 255])
})
