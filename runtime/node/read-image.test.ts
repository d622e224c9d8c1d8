import { Buffer } from 'node:buffer'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { GristError } from '#core/errors'
import { hash32 } from '#core/random'
import { readWithOiio } from '#core/testing/oiio'
import { decodeImage, readImage } from './read-image'

const folder = mkdtempSync(join(tmpdir(), 'images-'))
afterAll(() => rmSync(folder, { recursive: true }))

/** An image made by oiiotool: a colour slope, 23 × 17. */
function made(name: string, words: string[] = [], channels = 3): Buffer {
  const path = join(folder, name)
  const corner = (v: number[]) => v.slice(0, channels).join(',')
  const pattern = `fill:topleft=${corner([0.1, 0.9, 0.3, 1])}:topright=${corner([1, 0, 0.2, 0.5])}:bottomleft=${corner([0, 0.4, 1, 0.2])}:bottomright=${corner([0.7, 0.6, 0.5, 0.9])}`
  execFileSync('oiiotool', ['--pattern', pattern, '23x17', String(channels), ...words, '-o', path], { stdio: 'pipe' })
  return readFileSync(path)
}

/** Read by us and by oiiotool: the largest difference. */
async function apart(
  bytes: Buffer,
  extension: string,
): Promise<{ maxError: number; channels: number; bits: number; float: boolean }> {
  const ours = await decodeImage(bytes, 'x')
  const { planes } = readWithOiio(bytes, extension)
  expect([ours.width, ours.height]).toEqual([23, 17])
  let maxError = 0
  planes.forEach((plane, c) =>
    plane.forEach((v, i) => {
      maxError = Math.max(maxError, Math.abs(v - ours.values[i * ours.channels + c]!))
    }),
  )
  return { maxError, channels: ours.channels, bits: ours.bits, float: ours.float }
}

describe('reads what OpenImageIO reads', () => {
  test.each([
    ['grey8.png', ['-d', 'uint8'], 1, { channels: 1, bits: 8, float: false }],
    ['grey16.png', ['-d', 'uint16'], 1, { channels: 1, bits: 16, float: false }],
    ['rgb8.png', ['-d', 'uint8'], 3, { channels: 3, bits: 8, float: false }],
    ['rgb16.png', ['-d', 'uint16'], 3, { channels: 3, bits: 16, float: false }],
    ['grey16.tif', ['-d', 'uint16'], 1, { channels: 1, bits: 16, float: false }],
    ['rgb8.tif', ['-d', 'uint8', '--compression', 'lzw'], 3, { channels: 3, bits: 8, float: false }],
    ['float.tif', ['-d', 'float', '--compression', 'zip'], 3, { channels: 3, bits: 32, float: true }],
    ['rgb.tga', ['-d', 'uint8'], 3, { channels: 3, bits: 8, float: false }],
    ['rle.tga', ['-d', 'uint8', '--compression', 'rle'], 3, { channels: 3, bits: 8, float: false }],
    ['half.exr', ['-d', 'half'], 3, { channels: 4, bits: 32, float: true }],
    ['float.exr', ['-d', 'float', '--compression', 'none'], 3, { channels: 4, bits: 32, float: true }],
    ['piz.exr', ['-d', 'half', '--compression', 'piz'], 3, { channels: 4, bits: 32, float: true }],
  ] as [string, string[], number, object][])('%s with equal values', async (name, words, channels, shape) => {
    const { maxError, ...rest } = await apart(made(name, words, channels), name.split('.')[1]!)
    expect(rest).toEqual(shape)
    // A decoder may round 8-bit division one way or another; nothing else is let through.
    expect(maxError).toBeLessThan(1e-6)
  })
  test('light.hdr within half a step of the shared exponent (readers differ in adding it)', async () => {
    const { maxError, ...rest } = await apart(made('light.hdr'), 'hdr')
    expect(rest).toEqual({ channels: 4, bits: 32, float: true })
    expect(maxError).toBeLessThan(1 / 250)
  })
  test.each(['photo.jpg', 'photo.webp'])(
    '%s within three steps (decoders differ in their upsampling)',
    async (name) => {
      const { maxError } = await apart(made(name, ['-d', 'uint8', '--quality', '100']), name.split('.')[1]!)
      expect(maxError).toBeLessThanOrEqual(3 / 255 + 1e-6)
    },
  )
  test('alpha stays as stored', async () => {
    const ours = await decodeImage(made('alpha.png', ['-d', 'uint8'], 4), 'x')
    expect(ours.channels).toBe(4)
    expect(ours.values[3]).toBe(1)
    expect(ours.values[22 * 4 + 3]).toBeCloseTo(0.5, 2)
  })
})

const refused = async (work: Promise<unknown>): Promise<GristError> => {
  const error = await work.then(
    () => null,
    (e: unknown) => e,
  )
  if (!(error instanceof GristError)) throw error ?? new Error('nothing was refused')
  return error
}

test('what is no image, or none of ours, is a typed error that names the file', async () => {
  const path = join(folder, 'a.png')
  for (const [bytes, code] of [
    [Buffer.from('hello, this is text and more text'), 'file-unsupported'],
    [Buffer.alloc(0), 'file-unsupported'],
    [Buffer.from('GIF89a............................'), 'file-unsupported'],
    [made('whole.png').subarray(0, 120), 'file-invalid'],
  ] as const) {
    writeFileSync(path, bytes)
    const error = await refused(readImage(path))
    expect([error.code, error.message.includes('a.png')]).toEqual([code, true])
  }
  expect((await refused(readImage(join(folder, 'absent.png')))).code).toBe('asset-missing')
  expect((await refused(readImage(folder))).code).toBe('asset-missing')
})

test('headers that promise huge pictures are refused before anything is allocated', async () => {
  const png = Buffer.from(made('huge.png'))
  png.writeUInt32BE(40000, 16)
  png.writeUInt32BE(40000, 20)
  const exr = Buffer.from(made('huge.exr', ['-d', 'half']))
  exr.writeInt32LE(1 << 30, exr.indexOf('dataWindow\0box2i\0') + 21 + 8)
  const tga = Buffer.from(made('huge.tga', ['-d', 'uint8']))
  tga.writeUInt16LE(65535, 12)
  tga.writeUInt16LE(65535, 14)
  const hdr = Buffer.from('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 999999 +X 999999\n')
  for (const bytes of [png, exr, tga, hdr])
    expect(['file-unsupported', 'file-invalid']).toContain((await refused(decodeImage(bytes, 'x'))).code)
})

test('2000 damaged images: typed errors or a picture, never a crash or a hang', async () => {
  const sturdy = [
    made('f.png', ['-d', 'uint8']),
    made('f16.png', ['-d', 'uint16']),
    made('f.jpg', ['-d', 'uint8']),
    made('f.webp', ['-d', 'uint8']),
  ]
  const fragile = [
    made('f.tga', ['-d', 'uint8']),
    made('r.tga', ['-d', 'uint8', '--compression', 'rle']),
    made('f.exr', ['-d', 'half']),
    made('g.exr', ['-d', 'float', '--compression', 'piz']),
    made('f.hdr'),
  ]
  let read = 0
  let slowest = 0
  const damage = (run: number): Buffer => {
    let state = run * 2654435761
    const next = (n: number): number => (state = hash32(state + 1)) % n
    // One in ten goes to the loaders, whose threads may have to be ended.
    let bytes = Buffer.from(run % 10 ? sturdy[run % sturdy.length]! : fragile[(run / 10) % fragile.length]!)
    for (let k = 1 + next(6); k > 0; k--) {
      const how = next(4)
      const at = next(next(2) ? Math.min(64, bytes.length) : bytes.length)
      if (how === 0) bytes = bytes.subarray(0, at)
      else if (how === 1)
        bytes = Buffer.concat([bytes.subarray(0, at), Buffer.from([next(256), next(256)]), bytes.subarray(at)])
      else bytes[at] = how === 2 ? next(256) : bytes[at]! ^ (1 << next(8))
      if (bytes.length === 0) break
    }
    return bytes
  }
  const decode = async (bytes: Buffer): Promise<void> => {
    const started = performance.now()
    try {
      const image = await decodeImage(bytes, 'x', 1500)
      expect(image.values).toHaveLength(image.width * image.height * image.channels)
      expect(image.values.findIndex((v) => !Number.isFinite(v))).toBe(-1)
      read++
    } catch (error) {
      if (!(error instanceof GristError)) throw error
    }
    slowest = Math.max(slowest, performance.now() - started)
  }
  const lane = async (first: number): Promise<void> => {
    for (let run = first; run < 2000; run += 2) await decode(damage(run))
  }
  await Promise.all([lane(0), lane(1)])
  expect(read).toBeGreaterThan(50)
  expect(slowest).toBeLessThan(20000)
})

test('a few bytes that promise a large picture are refused at once', async () => {
  const tga = Buffer.alloc(100)
  tga[2] = 10
  tga[16] = 24
  tga.writeUInt16LE(8000, 12)
  tga.writeUInt16LE(8000, 14)
  const plain = Buffer.from(tga)
  plain[2] = 2
  const hdr = Buffer.from('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 4000 +X 4000\n')
  const whole = Buffer.from(made('short.exr', ['-d', 'half']))
  const at = whole.indexOf('dataWindow\0box2i\0') + 21
  const exr = whole.subarray(0, at + 40)
  exr.writeInt32LE(4000, at + 8)
  exr.writeInt32LE(4000, at + 12)
  for (const bytes of [tga, plain, hdr, exr]) {
    // Not "took too long": nothing is decoded.
    expect((await refused(decodeImage(Buffer.from(bytes), 'x'))).message).toContain('too short for the')
  }
})

test('one that spins holds up its own thread only, and nobody who waits fails with it', async () => {
  // A string without an end: the loader looks for it for ever.
  const spinning = Buffer.concat([
    Buffer.from([0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0]),
    Buffer.from('dataWindow\0box2i\0'),
  ])
  const size = Buffer.alloc(20)
  size.writeInt32LE(16, 0)
  size.writeInt32LE(3, 12)
  size.writeInt32LE(3, 16)
  const endless = Buffer.concat([spinning, size, Buffer.from('noend'.repeat(20))])
  const png = made('innocent.png', ['-d', 'uint8'])
  const bad = refused(decodeImage(endless, 'bad', 4000))
  const good = await Promise.all(Array.from({ length: 6 }, () => decodeImage(png, 'good', 30_000)))
  expect(good.every(({ width }) => width === 23)).toBe(true)
  expect((await bad).code).toBe('file-invalid')
})
