import { TILE, TILES_UP, bodyAt, makeBody } from './body'

const body = makeBody(0.06, 96)
const triples = (values: Float32Array, i: number): [number, number, number] => [
  values[i * 3]!,
  values[i * 3 + 1]!,
  values[i * 3 + 2]!,
]
const minus = (a: number[], b: number[]): number[] => a.map((v, i) => v - b[i]!)
const cross = ([a, b, c]: number[], [x, y, z]: number[]): number[] => [
  b! * z! - c! * y!,
  c! * x! - a! * z!,
  a! * y! - b! * x!,
]
const dot = (a: number[], b: number[]): number => a.reduce((sum, v, i) => sum + v * b[i]!, 0)

it('is closed: its faces point outward and hold what the divergence theorem says of a closed surface', () => {
  let volume = 0
  const sum = [0, 0, 0]
  for (let i = 0; i < body.indices.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => triples(body.positions, body.indices[i + k]!)) as number[][] as [
      number[],
      number[],
      number[],
    ]
    const area = cross(minus(b, a), minus(c, a)).map((v) => v / 2)
    area.forEach((v, k) => (sum[k] = sum[k]! + v))
    volume += dot(a, area) / 3
  }
  // Vector areas of a closed surface add up to nothing; its volume is positive where faces point outward.
  for (const v of sum) expect(Math.abs(v)).toBeLessThan(1e-6)
  expect(volume).toBeGreaterThan(1)
})

it('has unit normals on the side of its faces', () => {
  const worst = { length: 0, cosine: 1 }
  for (let i = 0; i < body.indices.length; i += 3) {
    const corners = [0, 1, 2].map((k) => body.indices[i + k]!)
    const [a, b, c] = corners.map((k) => triples(body.positions, k)) as number[][] as [number[], number[], number[]]
    const face = cross(minus(b, a), minus(c, a))
    if (Math.hypot(...face) < 1e-7) continue
    for (const corner of corners) {
      const normal = triples(body.normals, corner)
      worst.length = Math.max(worst.length, Math.abs(Math.hypot(...normal) - 1))
      worst.cosine = Math.min(worst.cosine, dot(face, normal) / Math.hypot(...face))
    }
  }
  expect(worst.length).toBeLessThan(1e-5)
  expect(worst.cosine).toBeGreaterThan(0.6)
})

it('lays tiles on its upright front as wide as they are high, and tells where each place of them is', () => {
  let met = 0
  const { positions, uvs, relief } = body
  for (let i = 0; i < relief.length; i++) {
    const [u, v] = [uvs[i * 2]!, uvs[i * 2 + 1]!]
    const [x, y, z] = triples(positions, i)
    if (u < 0.3 || u > 2.7 || v < 0 || v > TILES_UP || y > 0.66) continue
    const found = bodyAt(u, v)!
    if (Math.hypot(...minus(found.at, [x, y, z])) < 1e-4) met++
  }
  expect(met).toBeGreaterThan(500)
  const [low, high, right] = [bodyAt(0.7, 0.1), bodyAt(0.7, 0.11), bodyAt(0.71, 0.1)]
  expect(minus(high!.at, low!.at)[1]).toBeCloseTo(0.01 * TILE, 5)
  expect(Math.hypot(...minus(right!.at, low!.at))).toBeCloseTo(0.01 * TILE, 5)
  expect(bodyAt(0.5, TILES_UP + 0.01)).toBeNull()
})
