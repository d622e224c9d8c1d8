import type { RasterImage } from '../field/pyramid'
import { randomNumbers } from '../testing/random-values'
import type { FoundRole } from './find-role'
import { evidenceOf, findRole as roleBy, findRoles } from './find-role'

const SIDE = 64

/** An image of bytes whose texels come from where they lie, 0–1 across and down. */
function image(texel: (u: number, v: number) => number[], bits: 8 | 16 = 8): RasterImage {
  const max = 2 ** bits - 1
  const texels = Array.from({ length: SIDE * SIDE }, (_, i) => texel((i % SIDE) / SIDE, Math.floor(i / SIDE) / SIDE))
  const values = Float32Array.from(texels.flat().map((v) => Math.round(Math.min(1, Math.max(0, v)) * max) / max))
  return { width: SIDE, height: SIDE, channels: texels[0]!.length as 1 | 2 | 3 | 4, bits, float: false, values }
}
/** A surface of waves that lie askew, so that both its slopes count. */
const slopes = (u: number, v: number): [number, number] => {
  const wave = Math.cos(2 * Math.PI * (2 * u + 3 * v))
  return [0.2 * 2 * wave, 0.2 * 3 * wave]
}
/** Its normal; down the image is −Y. */
function normalAt(u: number, v: number, green: 1 | -1): number[] {
  const [du, dv] = slopes(u, v)
  const length = Math.sqrt(du * du + dv * dv + 1)
  return [-du, green * dv, 1].map((n) => (n / length) * 0.5 + 0.5)
}
const findRole = (name: string, pieces: readonly RasterImage[]): FoundRole | null => roleBy(name, evidenceOf(pieces))
const told = (role: FoundRole | null): string | null =>
  role && `${role.by}: ${role.slots.map((one) => `${one.inverted ? '1-' : ''}${one.channel ?? 'nothing'}`).join(' ')}`

test('normals are known by their length and direction, and by their curl which way green points', () => {
  const up = findRole('a.png', [image((u, v) => normalAt(u, v, 1))])
  const down = findRole('a.png', [image((u, v) => normalAt(u, v, -1))])
  expect([told(up), up!.green]).toEqual(['texels: normal normal normal', 'up'])
  expect([told(down), down!.green]).toEqual(['texels: normal 1-normal normal', 'down'])
  expect(findRole('a.png', [image(() => [0.5, 0.5, 1])])!.green).toBeNull()
})

test('normals that face all ways are those of a model’s space, though the name says no more than "normal"', () => {
  const ball = image((u, v) => {
    const [level, z] = [Math.sqrt(1 - (2 * v - 1) ** 2), 2 * v - 1]
    return [level * Math.cos(2 * Math.PI * u), level * Math.sin(2 * Math.PI * u), z].map((n) => n * 0.5 + 0.5)
  })
  const all = 'object-normal object-normal object-normal'
  expect(told(findRole('hull.png', [ball]))).toBe(`texels: ${all}`)
  expect(told(findRole('hull_normal.png', [ball]))).toBe(`texels: ${all}`)
  // A material called "object" has normals too.
  expect(told(findRole('object_normal.png', [image((u, v) => normalAt(u, v, 1))]))).toBe('texels: normal normal normal')
  expect(told(findRole('hull_object_normal.png', [image((u, v) => [u, v, 0.5])]))).toBe(`name: ${all}`)
})

test('normals of two channels, told by their name, are taken as such: alone, or beside a blue that is the same throughout', () => {
  const two = (green: 1 | -1) => image((u, v) => normalAt(u, v, green).slice(0, 2))
  const flat = (green: 1 | -1) => image((u, v) => [...normalAt(u, v, green).slice(0, 2), 0])
  const [up, down, beside] = [two(1), two(-1), flat(-1)].map((one) => findRole('wall_normal.dds', [one]))
  expect([told(up!), up!.green]).toEqual(['name: normal normal', 'up'])
  expect([told(down!), down!.green]).toEqual(['name: normal 1-normal', 'down'])
  expect([told(beside!), beside!.green]).toEqual(['name: normal 1-normal nothing', 'down'])
  // By nothing but two channels it could be anything.
  expect(findRole('a.dds', [two(1)])!.slots).toHaveLength(1)
  // A third that varies is left as it is, whatever it holds.
  expect(findRole('a_normal.png', [image((u, v) => [u, v, (u * 7) % 1])])!.slots).toHaveLength(3)
})

test('stretches of rows tell the same as the whole', () => {
  const whole = image((u, v) => normalAt(u, v, -1))
  const stretch = (from: number): RasterImage => ({
    ...whole,
    height: 8,
    values: whole.values.subarray(from * SIDE * 3, (from + 8) * SIDE * 3),
  })
  expect(findRole('a.png', [stretch(0), stretch(24), stretch(48)])).toEqual(findRole('a.png', [whole]))
})

// Common practice: what the values of each kind of map are like.
test.each([
  ['metallic', 'near 0 or 1', image((u) => [u < 0.3 ? 1 : 0.01]), 'guess: metallic'],
  ['occlusion', 'white with dark creases', image((u, v) => [(u * 8) % 1 < 0.1 ? 0.3 + v / 4 : 1]), 'guess: occlusion'],
  ['height', '16 bits', image((u, v) => [0.3 + 0.2 * u * v], 16), 'guess: height'],
  ['height', 'smooth over a wide range', image((u, v) => [0.1 + 0.4 * (u + v)]), 'guess: height'],
  [
    'roughness',
    'grainy about a middle',
    image(((next) => () => [0.5 + 0.2 * next()])(randomNumbers(1))),
    'guess: roughness',
  ],
  [
    'packed',
    'planes that go their own ways',
    image(
      ((next) => (u: number, v: number) => [(v * 8) % 1 < 0.1 ? 0.4 : 1, 0.4 + 0.3 * next(), u < 0.5 ? 0 : 1])(
        randomNumbers(2),
      ),
    ),
    'guess: occlusion roughness metallic',
  ],
  [
    'colour',
    'planes that go together',
    image(
      (
        (next) => () =>
          ((g) => [0.5 + 0.3 * g, 0.4 + 0.25 * g, 0.2 + 0.1 * g])(next())
      )(randomNumbers(3)),
    ),
    'guess: colour colour colour',
  ],
  ['grey of three planes', 'alike', image((u, v) => [(u + v) / 2.2, (u + v) / 2.2, (u + v) / 2.2]), 'guess: height'],
])('%s is guessed: %s', (_, __, given, expected) => expect(told(findRole('map.png', [given]))).toBe(expected))

test('alpha beside colour is opacity, beside metal it is gloss, and a plain one holds nothing', () => {
  const grey = (alpha: (u: number) => number): RasterImage => image((u, v) => [v, v, v, alpha(u)])
  expect(told(findRole('wall_colour.png', [grey((u) => u)]))).toBe('name: colour colour colour opacity')
  expect(told(findRole('wall_colour.png', [grey(() => 1)]))).toBe('name: colour colour colour')
  expect(told(findRole('wall_metallic.png', [grey((u) => u)]))).toBe('name: metallic nothing nothing 1-roughness')
  expect(told(findRole('wall_specular.png', [grey((u) => u)]))).toBe('name: specular specular specular 1-roughness')
})

test('a name goes before texels', () => {
  expect(told(findRole('wall_roughness.png', [image((u) => [u < 0.3 ? 1 : 0])]))).toBe('name: roughness')
})

test('in a set each channel is in one file: names before guesses, and what is no second colour holds greys', () => {
  const file = (name: string, given: RasterImage, texels = SIDE * SIDE) => ({
    name,
    evidence: evidenceOf([given]),
    texels,
  })
  const next = randomNumbers(4)
  const paint = image(() => ((g) => [0.5 + 0.3 * g, 0.4 + 0.25 * g, 0.2 + 0.1 * g])(next()))
  // Half metal, and rough where it is not: the planes hang together, so that alone they would pass for a colour.
  const greys = image((u, v) => [0.8 + 0.2 * v, 0.7 - 0.4 * u, u < 0.4 ? 0 : u < 0.6 ? (u - 0.4) * 5 : 1])
  expect(told(findRole('x.png', [greys]))).toBe('guess: colour colour colour')
  expect(findRoles([file('x.png', greys), file('y.png', paint)]).map(told)).toEqual([
    'guess: occlusion roughness metallic',
    'guess: colour colour colour',
  ])
  const rough = image(() => [0.4 + next() / 5])
  expect(
    findRoles([file('p.png', rough), file('wall_rough.png', rough), file('wall_roughness_2.png', rough, 9e6)]).map(
      told,
    ),
  ).toEqual(['guess: ', 'name: ', 'name: roughness'])
})
