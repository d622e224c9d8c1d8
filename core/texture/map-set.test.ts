import type { RasterImage } from '../field/pyramid'
import { compareMaps, differencePicture } from './compare'
import { mipSides } from './bytes/mip-sides'
import { engineMemory } from './engine-memory'
import type { PackedFile } from './packing'

const channel = (name: string, component = 0) => ({ channel: name, component, invert: false })
const file = (slots: PackedFile['slots'], more: Partial<PackedFile> = {}): PackedFile => ({
  map: 'a',
  slots,
  transfer: 'raw',
  format: 'png',
  bits: 8,
  ...more,
})
const triple = (name: string): PackedFile['slots'] => [channel(name), channel(name, 1), channel(name, 2)]

describe('memory in an engine', () => {
  test('a chain of mips ends at one texel and adds a third', () => {
    expect(mipSides(8, 2)).toEqual([
      [8, 2],
      [4, 1],
      [2, 1],
      [1, 1],
    ])
    const texels = mipSides(2048, 2048).reduce((sum, [w, h]) => sum + w * h, 0)
    // 4ⁿ + … + 1 = (4ⁿ⁺¹ − 1)/3.
    expect(texels).toBe((4 ** 12 - 1) / 3)
  })

  test('1024²: the sizes that block formats have, worked out by hand', () => {
    // 65536 + 16384 + … + 1 blocks for 1024 down to 4, then one block each for 2 and 1.
    const blocks = (4 ** 9 - 1) / 3 + 2
    expect(engineMemory(file([channel('roughness')]), 1024, 1024)).toMatchObject({ format: 'BC4', blocks: blocks * 8 })
    expect(engineMemory(file(triple('normal')), 1024, 1024)).toMatchObject({ format: 'BC5', blocks: blocks * 16 })
    expect(engineMemory(file(triple('colour')), 1024, 1024)).toMatchObject({
      format: 'BC7',
      blocks: blocks * 16,
      plain: ((4 ** 11 - 1) / 3) * 4,
    })
  })

  test('floats and odd sides have no blocks; sixteen bits take twice as much', () => {
    expect(engineMemory(file([channel('height')], { format: 'exr', bits: 32 }), 64, 64).blocks).toBeNull()
    expect(engineMemory(file([channel('height')]), 50, 50).format).toBeNull()
    const at = (bits: 8 | 16) => engineMemory(file([channel('height')], { bits }), 64, 64).plain
    expect(at(16)).toBe(2 * at(8))
  })
})

describe('comparing two maps', () => {
  const picture = (values: number[], channels: 1 | 3 = 1): RasterImage => ({
    width: 2,
    height: values.length / channels / 2,
    channels,
    values: Float32Array.from(values),
    bits: 8,
    float: false,
  })

  test('the largest difference, where it is, the mean square, the share', () => {
    const found = compareMaps(picture([0, 0.25, 0.5, 1]), picture([0, 0.25, 1, 0.75]))
    expect(found).toEqual({ largest: 0.5, rms: Math.sqrt((0.25 + 0.0625) / 4), ratio: 0.5, at: [0.25, 0.75] })
    expect(compareMaps(picture([0, 1]), picture([0, 1]))).toMatchObject({ largest: 0, rms: 0, ratio: 0 })
  })

  test('its picture is mid-grey where nothing changed, and amplified', () => {
    const bytes = differencePicture(picture([0.5, 0.5, 0.5, 0.5]), picture([0.5, 0.55, 0.45, 1]), 4)
    const expected = [127.5, 153, 102, 255]
    expected.forEach((v, i) => expect(Math.abs(bytes[4 * i]! - v)).toBeLessThan(1))
    expect(bytes[3]).toBe(255)
  })

  test('pictures of unlike sizes are a typed error', () => {
    expect(() => compareMaps(picture([0, 1]), picture([0, 1, 0, 1]))).toThrow('Expected two pictures alike')
    expect(() => differencePicture(picture([0, 1]), picture([0, 1, 0, 0, 0, 0], 3), 1)).toThrow('channels')
  })
})
