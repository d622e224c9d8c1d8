import { createField } from '../field/field'
import type { Field } from '../field/field'
import { fieldOf, largestDifference } from '../testing/fields'
import { horizonOcclusion, horizonSteps } from './horizon'
import type { NormalMethod } from './normals'
import { combineNormalFields, normalsOfHeight } from './normals'
import { allRows } from './rows'
import type { SlopeMethod } from './slopes'
import { directionOf } from './warp'

const TURN = 2 * Math.PI

describe('normals of analytic surfaces', () => {
  const n = 256
  const amplitude = 0.3
  const scale = 5 // metres a metre for one grey a texel, over n
  // h = ½ + a·sin(2πu)·cos(2π·2v); its slopes by hand.
  const height = fieldOf(
    'grey',
    n,
    n,
    (x, y) => 0.5 + amplitude * Math.sin((TURN * (x + 0.5)) / n) * Math.cos((2 * TURN * (y + 0.5)) / n),
  )
  const slopes = (x: number, y: number): [number, number] => {
    const u = (TURN * (x + 0.5)) / n
    const v = (2 * TURN * (y + 0.5)) / n
    return [amplitude * TURN * Math.cos(u) * Math.cos(v), -amplitude * 2 * TURN * Math.sin(u) * Math.sin(v)]
  }
  test.each(['central', 'scharr'] as SlopeMethod[])('%s differences of a product of waves: within 0.05°', (method) => {
    const out = createField('normal', n, n)
    normalsOfHeight(height, out, allRows(n), scale * n, method)
    let worst = 0
    for (let y = 0; y < n; y += 3)
      for (let x = 0; x < n; x += 3) {
        const [su, sv] = slopes(x, y)
        const expected = [-su * scale, sv * scale, 1] // v runs down, y up
        const length = Math.hypot(...expected)
        const dot = out.planes.reduce((sum, plane, p) => sum + (plane[y * n + x]! * expected[p]!) / length, 0)
        worst = Math.max(worst, (Math.acos(Math.min(1, dot)) * 360) / TURN)
      }
    expect(worst).toBeLessThan(0.05)
  })

  test('a plane at 45° leans by 45°: up where height falls downward', () => {
    // Rises by one metre a metre towards row 0: the normal leans away from row 0, −y.
    const size = 16
    const rising = fieldOf('grey', size, size, (_, y) => -y)
    const out = createField('normal', size, size)
    normalsOfHeight(rising, out, { from: 4, to: 12, check: () => {} }, 1, 'central')
    const i = 8 * size + 8
    expect(out.planes.map((plane) => Math.round(plane[i]! * 1e6) / 1e6)).toEqual([0, -0.707107, 0.707107])
  })
})

describe('combining normals', () => {
  const one = (v: number[]): Field => fieldOf('normal', 1, 1, (_x, _y, p) => v[p]!)
  const combined = (b: number[], d: number[], method: NormalMethod, amount = 1): number[] => {
    const out = createField('normal', 1, 1)
    combineNormalFields(one(b), one(d), null, out, allRows(1), method, amount)
    return out.planes.map((plane) => plane[0]!)
  }
  const unit = (v: number[]): number[] => v.map((c) => c / Math.hypot(...v))

  test('reoriented equals turning the detail by the rotation that takes +Z to the base (Rodrigues)', () => {
    for (const b of [
      [0.3, -0.2, 0.9],
      [0, 0, 1],
      [-0.6, 0.5, 0.4],
    ].map(unit))
      for (const d of [
        [0.1, 0.4, 0.8],
        [-0.5, 0.1, 0.7],
      ].map(unit)) {
        // Axis z × b, cosine b.z: v·c + (k × v)·s + k(k·v)(1 − c).
        const axis = [-b[1]!, b[0]!, 0]
        const s = Math.hypot(...axis)
        const k = s ? axis.map((c) => c / s) : [1, 0, 0]
        const c = b[2]!
        const dot = k[0]! * d[0]! + k[1]! * d[1]!
        const cross = [k[1]! * d[2]!, -k[0]! * d[2]!, k[0]! * d[1]! - k[1]! * d[0]!]
        const turned = d.map((v, i) => v * c + cross[i]! * s + k[i]! * dot * (1 - c))
        combined(b, d, 'reoriented').forEach((v, i) => expect(v).toBeCloseTo(turned[i]!, 6))
      }
  })

  test('a flat detail or base changes nothing; amount 0 neither; replace replaces', () => {
    const b = unit([0.3, -0.2, 0.9])
    const d = unit([0.1, 0.4, 0.8])
    for (const method of ['reoriented', 'whiteout'] as const) {
      combined(b, [0, 0, 1], method).forEach((v, i) => expect(v).toBeCloseTo(b[i]!, 6))
      combined([0, 0, 1], d, method).forEach((v, i) => expect(v).toBeCloseTo(d[i]!, 6))
    }
    combined(b, d, 'add', 0).forEach((v, i) => expect(v).toBeCloseTo(b[i]!, 6))
    combined(b, d, 'replace').forEach((v, i) => expect(v).toBeCloseTo(d[i]!, 6))
    combined(b, d, 'add').forEach((v, i) => expect(v).toBeCloseTo(unit(b.map((c, j) => c + d[j]!))[i]!, 6))
  })
})

describe('occlusion of heights', () => {
  const occlusion = (height: Field, rise: number, radius: number, strength = 1): Float32Array => {
    const out = createField('grey', height.width, height.height)
    horizonOcclusion(height, out, allRows(height.height), rise, radius, strength)
    return out.planes[0]!
  }

  test('a plane is open, whatever its height', () => {
    for (const level of [0, 0.5, 9])
      expect(
        [
          ...occlusion(
            fieldOf('grey', 16, 16, () => level),
            30,
            6,
          ),
        ].every((v) => v === 1),
      ).toBe(true)
  })

  test('equals its definition, worked out texel by texel in float64', () => {
    const n = 48
    const height = fieldOf(
      'grey',
      n,
      n,
      (x, y) => 0.5 + 0.3 * Math.sin((TURN * 3 * x) / n) * Math.sin((TURN * 2 * y) / n) + (x % 11 === 0 ? 0.2 : 0),
    )
    const [rise, radius, strength] = [12, 9, 0.8]
    const ours = occlusion(height, rise, radius, strength)
    const at = (x: number, y: number) => height.planes[0]![((y + n) % n) * n + ((x + n) % n)]!
    const theirs = new Float32Array(n * n)
    for (let y = 0; y < n; y++)
      for (let x = 0; x < n; x++) {
        let hidden = 0
        for (let k = 0; k < 16; k++) {
          const [du, dv] = directionOf(k / 16)
          let max = 0
          for (const distance of horizonSteps(radius)) {
            const dx = Math.round(du * distance)
            const dy = Math.round(dv * distance)
            const up = (at(x + dx, y + dy) - at(x, y)) * rise
            const away = Math.hypot(dx, dy)
            const weight = Math.sqrt(1 - (away / (radius + 1)) ** 2)
            if (up > 0) max = Math.max(max, Math.sin(Math.atan2(up * weight, away)) ** 2)
          }
          hidden += max / 16
        }
        theirs[y * n + x] = 1 - strength * hidden
      }
    expect(largestDifference(ours, theirs)).toBeLessThan(1e-5)
  })

  test('at the foot of a tall straight wall half the sky is hidden', () => {
    // A step of height H ≫ radius: sin² h → 1 in every direction towards the wall, 0 away from it; own derivation.
    const n = 128
    const wall = fieldOf('grey', n, n, (x) => (x < n / 2 ? 0 : 1))
    const foot = occlusion(wall, 10000, 24)[5 * n + n / 2 - 1]!
    expect(foot).toBeGreaterThan(0.5)
    expect(foot).toBeLessThan(0.65)
  })
})
