import { converter } from 'culori'
import { GristError } from '../errors'
import { linearToOklab, oklabToLinear } from './oklab'
import type { Rgb } from './srgb'
import { decodeSrgb, encodeSrgb, hexToEncoded, hexToLinear, linearToHex } from './srgb'

const colours: Rgb[] = []
for (let r = 0; r <= 1; r += 0.2)
  for (let g = 0; g <= 1; g += 0.25) for (let b = 0; b <= 1; b += 0.2) colours.push([r, g, b])

describe('sRGB transfer, IEC 61966-2-1', () => {
  test('the constants of the standard, section 5.2', () => {
    expect(decodeSrgb(0)).toBe(0)
    expect(decodeSrgb(1)).toBe(1)
    expect(decodeSrgb(0.04045)).toBeCloseTo(0.04045 / 12.92, 15)
    // 12.92 and the power branch meet within the standard's own rounding, 1e-7.
    expect(Math.abs(((0.04045 + 0.055) / 1.055) ** 2.4 - 0.04045 / 12.92)).toBeLessThan(1e-7)
    expect(encodeSrgb(0.0031308)).toBeCloseTo(0.0031308 * 12.92, 15)
  })

  test('equals the formula in float64 and turns back, over all 8-bit and many 16-bit codes', () => {
    for (let i = 0; i <= 65535; i += i < 256 ? 1 : 97) {
      const v = i / 65535
      const expected = v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
      expect(Math.abs(decodeSrgb(v) - expected)).toBeLessThan(1e-14)
      expect(Math.round(encodeSrgb(decodeSrgb(v)) * 65535)).toBe(i)
    }
  })

  test('equals culori 4', () => {
    const toLinear = converter('lrgb')
    for (const [r, g, b] of colours) {
      const theirs = toLinear({ mode: 'rgb', r, g, b })
      expect(Math.abs(decodeSrgb(r) - theirs.r)).toBeLessThan(1e-13)
      expect(Math.abs(decodeSrgb(g) - theirs.g)).toBeLessThan(1e-13)
    }
  })

  test('goes on beyond 0–1 without a break', () => {
    expect(decodeSrgb(-0.5)).toBe(-decodeSrgb(0.5))
    expect(encodeSrgb(4)).toBeCloseTo(1.055 * 4 ** (1 / 2.4) - 0.055, 12)
  })
})

test('hex colours', () => {
  expect(hexToEncoded('#b4690e')).toEqual([0xb4 / 255, 0x69 / 255, 0x0e / 255])
  expect(hexToLinear('#ffffff')).toEqual([1, 1, 1])
  for (const bad of ['b4690e', '#fff', '#gg0000', '']) expect(() => hexToLinear(bad)).toThrow(GristError)
})

describe('Oklab', () => {
  test('equals culori 4 and turns back', () => {
    const toOklab = converter('oklab')
    for (const colour of colours) {
      const [r, g, b] = colour
      const theirs = toOklab({ mode: 'lrgb', r, g, b })
      const ours = linearToOklab(colour)
      ;[theirs.l, theirs.a, theirs.b].forEach((v, i) => expect(Math.abs(ours[i]! - v)).toBeLessThan(1e-6))
      oklabToLinear(ours).forEach((v, i) => expect(Math.abs(v - colour[i]!)).toBeLessThan(1e-6))
    }
  })

  test('white is (1, 0, 0), from the definition', () => {
    linearToOklab([1, 1, 1]).forEach((v, i) => expect(Math.abs(v - [1, 0, 0][i]!)).toBeLessThan(1e-6))
  })
})

test('every byte of every colour survives linear light and back; values outside are held', () => {
  for (let byte = 0; byte < 256; byte++) {
    const hex = `#${[byte, 255 - byte, (byte * 7) % 256].map((v) => v.toString(16).padStart(2, '0')).join('')}`
    expect(linearToHex(hexToLinear(hex))).toBe(hex)
  }
  expect(linearToHex([-1, 0.5, 7])).toMatch(/^#00..ff$/)
})
