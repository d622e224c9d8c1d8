import { converter } from 'culori'
import { fieldOf, largestDifference, noisyField } from '../../testing/fields'
import { randomNumbers } from '../../testing/random-values'
import { constant, runNode, values } from '../../testing/run-node'

const N = 16
const colours = fieldOf('colour', N, N, (x, y, p) => noisyField(N, N, p + 1).planes[0]![y * N + x]!)

/** A field of one colour, normal or vector. */
const plain = (type: 'colour' | 'normal' | 'vector', ...v: number[]) => fieldOf(type, 4, 4, (_, __, p) => v[p]!)
const first = (type: string, source: ReturnType<typeof plain>): number[] =>
  runNode(type, { source }).result!.planes.map((plane) => plane[0]!)

describe('colour and grey', () => {
  // ITU-R BT.709-6, item 3.2: E'Y = 0.2126 E'R + 0.7152 E'G + 0.0722 E'B, here of linear light.
  test('grey is the luminance of BT.709', () => {
    const ofOne = [0, 1, 2].map(
      (p) => first('colour-to-grey', plain('colour', ...[0, 1, 2].map((k) => +(k === p))))[0]!,
    )
    ofOne.forEach((v, p) => expect(v).toBeCloseTo([0.2126, 0.7152, 0.0722][p]!, 6))
    expect(first('colour-to-grey', plain('colour', 1, 1, 1))[0]).toBeCloseTo(1, 6)
  })

  test('a grey becomes a colour with that luminance', () => {
    const source = noisyField(N, N, 9)
    const colour = runNode('grey-to-colour', { source }).result!
    for (const plane of colour.planes) expect(plane).toEqual(source.planes[0])
    const back = values(runNode('colour-to-grey', { source: colour }).result)
    expect(largestDifference(back, source.planes[0]!)).toBeLessThan(1e-6)
  })

  // IEC 61966-2-1, as culori has it; the mean grey of the standard's curve: 0.5 is 0.214041 of the light.
  test('sRGB is decoded and encoded as culori does it, and there and back is where it was', () => {
    const linear = converter('lrgb')
    const decoded = runNode('decode-srgb', { source: colours }).result!
    const theirs = colours.planes[0]!.map((r) => linear({ mode: 'rgb', r, g: 0, b: 0 }).r)
    expect(largestDifference(decoded.planes[0]!, theirs)).toBeLessThan(1e-6)
    expect(first('decode-srgb', plain('colour', 0.5, 0.04045, 1))).toEqual(
      [0.214041, 0.0031308, 1].map((v) => expect.closeTo(v, 6)),
    )
    const again = runNode('encode-srgb', { source: decoded }).result!
    again.planes.forEach((plane, p) => expect(largestDifference(plane, colours.planes[p]!)).toBeLessThan(1e-5))
  })
})

describe('directions and colours', () => {
  test('a normal is stored as n · 0.5 + 0.5, and read as of length 1', () => {
    expect(first('normal-to-colour', plain('normal', 0, 0, 1))).toEqual([0.5, 0.5, 1])
    expect(first('normal-to-colour', plain('normal', -1, 1, 0))).toEqual([0, 1, 0.5])
    const read = runNode('colour-to-normal', { source: colours }).result!
    const random = Array.from({ length: N * N }, (_, i) => colours.planes.map((plane) => 2 * plane[i]! - 1))
    random.forEach((v, i) => {
      const length = Math.hypot(...v)
      v.forEach((part, p) => expect(read.planes[p]![i]).toBeCloseTo(part / length, 5))
    })
    const stored = runNode('normal-to-colour', { source: read }).result!
    const again = runNode('colour-to-normal', { source: stored }).result!
    again.planes.forEach((plane, p) => expect(largestDifference(plane, read.planes[p]!)).toBeLessThan(1e-6))
  })

  test('a colour without direction is straight up', () => {
    expect(first('colour-to-normal', plain('colour', 0.5, 0.5, 0.5))).toEqual([0, 0, 1])
    expect(values(runNode('flat-normal', {}, {}, { width: 4 }).normal, 2)).toEqual(new Float32Array(16).fill(1))
    for (const p of [0, 1]) expect(values(runNode('flat-normal', {}, {}, { width: 4 }).normal, p)[0]).toBe(0)
  })

  test('vectors count downward: green up is up, and what leans up points up', () => {
    expect(first('colour-to-vector', plain('colour', 1, 1, 0.3))).toEqual([1, -1])
    expect(first('colour-to-vector', plain('colour', 0.5, 0.5, 0.3))).toEqual([0, 0])
    expect(first('normal-to-vector', plain('normal', 0.6, 0.8, 0))).toEqual([0.6, -0.8].map(Math.fround))
  })
})

describe('coverage share', () => {
  /** What layers give that lie on each other, each mixed in by its share; colour of one plane and what is covered. */
  function laid(layers: readonly { colour: number; alpha: number; mask: number; amount: number }[]) {
    let [colour, union] = [0, 0]
    for (const { colour: own, alpha, mask, amount } of layers) {
      const weight = alpha * mask * amount
      union = union + weight - union * weight
      const inputs = { mask: constant(mask), coverage: constant(alpha), union: constant(union) }
      const share = values(runNode('coverage-share', inputs, { amount }).result)[0]!
      colour += (own - colour) * share
    }
    return { colour, union }
  }

  // W3C Compositing and Blending Level 1, 5.1: co = cs·αs + cb·αb·(1 − αs), αo = αs + αb·(1 − αs).
  test('layers mixed by it are layers composited over each other and divided by their alpha', () => {
    const random = randomNumbers(4)
    for (let i = 0; i < 40; i++) {
      const layers = Array.from({ length: 4 }, () => {
        const [colour, alpha, mask, amount] = [random(), random(), random(), random()]
        return { colour, alpha, mask, amount }
      })
      let [co, ao] = [0, 0]
      for (const { colour, alpha, mask, amount } of layers) {
        const as = alpha * mask * amount
        co = colour * as + co * (1 - as)
        ao = as + ao * (1 - as)
      }
      const ours = laid(layers)
      expect(ours.union).toBeCloseTo(ao, 6)
      expect(ours.colour).toBeCloseTo(co / ao, 4)
    }
  })

  test('the lowest layer takes all of what it covers; where nothing is covered there is no share', () => {
    const share = (mask: number, union: number) =>
      values(
        runNode('coverage-share', { mask: constant(mask), coverage: constant(1), union: constant(union) }).result,
      )[0]
    expect(share(0.3, 0.3)).toBe(1)
    expect(share(0, 0)).toBe(0)
    // Rounding may leave the union a little below the layer.
    expect(share(0.3, 0.2999999)).toBe(1)
  })
})

test('without a layout nothing is padded', () => {
  const source = noisyField(N, N, 3)
  expect(values(runNode('pad', { source }).result)).toEqual(source.planes[0])
})
