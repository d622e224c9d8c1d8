import { createField } from './field'
import type { PatchSet } from './patches'
import { fadeSteps, footCount, normaliseStretches, stepsOver } from './patches'
import { READ_BYTES, fractionOf, packRead } from './reads'

const [WIDTH, HEIGHT] = [8, 4]

/** Three feet, each with the place that is read on its own side and the one on the other, a quarter turn between them. */
function someSet(): PatchSet {
  const feet = new Uint8Array(6 * READ_BYTES)
  const straight = { cosine: 1, sine: 0, mirror: 1 }
  const turned = { cosine: 0, sine: 1, mirror: 1 }
  const places = [
    [1, 0, 5, 2],
    [2, 0, 5.5, 2],
    [3, 0, 6, 2.25],
  ] as const
  places.forEach(([x, y, otherX, otherY], i) => {
    packRead(feet, 2 * i, fractionOf(WIDTH, HEIGHT), { x, y, ...straight })
    packRead(feet, 2 * i + 1, fractionOf(WIDTH, HEIGHT), { x: otherX, y: otherY, ...turned })
  })
  // The texels from 9 on have the feet in their order; 9 has the last one too.
  const fades = Uint32Array.of(9, 0, 2, 9, 2, 1)
  return { feet, fades, fadeRatios: Float32Array.of(0.5, 0.25, 0.1) } as unknown as PatchSet
}

test('a step from one side of a seam to the other is read between texels, and some of it is added beside the seam', () => {
  const set = someSet()
  const grey = createField('grey', WIDTH, HEIGHT)
  const [plane] = grey.planes
  plane!.forEach((_, i) => (plane![i] = i * i))
  expect(footCount(set)).toBe(3)
  const steps = new Float32Array(3)
  stepsOver(set, grey, [steps], 0, 3)
  const at = (x: number, y: number): number => (y * WIDTH + x) ** 2
  const own = [at(1, 0), at(2, 0), at(3, 0)]
  const other = [at(5, 2), (at(5, 2) + at(6, 2)) / 2, at(6, 2) * 0.75 + at(6, 3) * 0.25]
  expect([...steps]).toEqual(other.map((value, i) => value - own[i]!))
  // Row 0 has none of its texels, row 1 all.
  fadeSteps(set, steps, plane!, WIDTH, 0, 1)
  expect(plane![9]).toBe(81)
  fadeSteps(set, steps, plane!, WIDTH, 1, 2)
  expect(plane![9]).toBeCloseTo(81 + 0.5 * steps[0]! + 0.1 * steps[2]!, 3)
  expect(plane![10]).toBeCloseTo(100 + 0.25 * steps[1]!, 3)
  expect(plane![11]).toBe(121)
})

test.each([
  // A direction to the right over there is one upward here; of a vector, whose y runs downward, one to the top as well.
  ['normal', [0, 1]],
  ['vector', [0, -1]],
] as const)('of a %s the step is taken in the directions of its own side', (type, turned) => {
  const set = someSet()
  const field = createField(type, WIDTH, HEIGHT)
  const [xs, ys] = field.planes as [Float32Array, Float32Array]
  xs.fill(1, 2 * WIDTH)
  const steps = field.planes.map(() => new Float32Array(3))
  stepsOver(set, field, steps, 0, 3)
  for (let i = 0; i < 3; i++) {
    expect(steps[0]![i]).toBeCloseTo(turned[0], 3)
    expect(steps[1]![i]).toBeCloseTo(turned[1], 3)
  }
  fadeSteps(set, steps[1]!, ys, WIDTH, 1, 2)
  expect(ys[10]).toBeCloseTo(0.25 * turned[1], 3)
})

test('normals beside seams are of length 1 after it', () => {
  const field = createField('normal', WIDTH, HEIGHT)
  for (const plane of field.planes) plane.fill(3)
  normaliseStretches(someSet().fades, field.planes, WIDTH, 0, HEIGHT)
  expect(field.planes[0]![9]).toBeCloseTo(1 / Math.sqrt(3), 6)
  expect(field.planes[0]![10]).toBeCloseTo(1 / Math.sqrt(3), 6)
  expect(field.planes[0]![11]).toBe(3)
})
