import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import decode, { init } from '@jsquash/jpeg/decode.js'
import sharp from 'sharp'
import { decodeWith } from '../jpeg'
import { encodeJpeg } from './jpeg'

beforeAll(() =>
  init(
    new WebAssembly.Module(
      readFileSync(createRequire(import.meta.url).resolve('@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm')),
    ) as never,
  ),
)

test.each([1, 3] as const)(
  'what the stage shows of a JPEG of %d channels is what libjpeg reads of it',
  async (channels) => {
    const [width, height] = [67, 45]
    const shape = { width, height, channels }
    const pixels = Uint8Array.from(
      { length: width * height * channels },
      (_, i) => 128 + 90 * Math.sin(i / 9) + (i % 7),
    )
    const bytes = await encodeJpeg(pixels, shape)
    const { data, info } = await sharp(bytes)
      .toColourspace(channels === 1 ? 'b-w' : 'srgb')
      .raw()
      .toBuffer({ resolveWithObject: true })
    expect([info.width, info.height, info.channels]).toEqual([width, height, channels])
    expect([...(await decodeWith(decode, bytes, shape))]).toEqual([...data])
    expect([...(await encodeJpeg(pixels, shape))]).toEqual([...bytes])
    const max = data.reduce((worst, v, i) => Math.max(worst, Math.abs(v - pixels[i]!)), 0)
    expect(max).toBeLessThan(40)
    expect((await sharp(bytes).metadata()).chromaSubsampling).toBe('4:4:4')
  },
)
