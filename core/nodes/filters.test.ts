import type { Field } from '../field/field'
import { checkParameters } from '../graph/graph'
import { fieldOf, largestDifference, noisyField } from '../testing/fields'
import { python } from '../testing/python'
import { registry } from './registry.generated'
import { constant, runNode, values } from '../testing/run-node'

describe('filters', () => {
  test('edges without width are SciPy’s Sobel magnitude, and read 1 on a step at every width', () => {
    const source = noisyField(40, 30, 6)
    const theirs = python(
      `from scipy import ndimage
out = np.hypot(ndimage.sobel(a, 0, mode="wrap"), ndimage.sobel(a, 1, mode="wrap")) / 8 * 2`,
      source.planes[0]!,
      [30, 40],
    )
    expect(largestDifference(values(runNode('edges', { source }, { width: 0 }).edges), theirs)).toBeLessThan(1e-5)
    const step = fieldOf('grey', 256, 16, (x) => (x < 128 ? 0 : 1))
    for (const width of [0, 0.02, 0.1]) {
      const { edges, direction } = runNode('edges', { source: step }, { width })
      // The operator spans two texels, which flattens narrow edges a little.
      expect(Math.abs(Math.max(...values(edges)) - 1)).toBeLessThan(0.04)
      expect([values(direction)[128], values(direction, 1)[128]]).toEqual([1, 0])
    }
  })

  test('sharpen and high pass are SciPy’s blur taken away', () => {
    const source = noisyField(64, 64, 7)
    const blurred = python(
      `from scipy import ndimage\nout = ndimage.gaussian_filter(a, 1.28, mode="wrap", truncate=4.0)`,
      source.planes[0]!,
      [64, 64],
    )
    const plain = values(source)
    const sharp = values(runNode('sharpen', { source }, { radius: 0.02, amount: 1.5 }).result)
    const high = values(runNode('high-pass', { source }, { radius: 0.02, strength: 2 }).result)
    expect(
      largestDifference(
        sharp,
        plain.map((v, i) => v + 1.5 * (v - blurred[i]!)),
      ),
    ).toBeLessThan(1e-3)
    expect(
      largestDifference(
        high,
        plain.map((v, i) => 0.5 + 2 * (v - blurred[i]!)),
      ),
    ).toBeLessThan(1e-3)
    const laplacian = python(
      `from scipy import ndimage\nout = a - 0.5 * ndimage.laplace(a, mode="wrap") / 4`,
      plain,
      [64, 64],
    )
    expect(
      largestDifference(
        values(runNode('sharpen', { source }, { method: 'neighbours', amount: 0.5 }).result),
        laplacian,
      ),
    ).toBeLessThan(1e-5)
  })

  test('distances run from the true edge of a soft disc, inside and out, also across the border', () => {
    const n = 128
    const away = (x: number, y: number) => {
      const wrapped = (t: number) => Math.abs(t - Math.round(t))
      return Math.hypot(wrapped((x + 0.5) / n - 0.1), wrapped((y + 0.5) / n - 0.95))
    }
    const disc = fieldOf('grey', n, n, (x, y) => Math.min(1, Math.max(0, 0.5 + (0.2 - away(x, y)) * n)))
    const { inside, outside, halo, depth } = runNode('distance', { source: disc }, { range: 0.1 })
    let worst = 0
    for (let y = 0; y < n; y++)
      for (let x = 0; x < n; x++) {
        const d = away(x, y) - 0.2
        worst = Math.max(
          worst,
          Math.abs(values(outside)[y * n + x]! - Math.max(0, d)),
          Math.abs(values(inside)[y * n + x]! - Math.max(0, -d)),
        )
      }
    // Half a texel or so, where neighbours along the edge are nearer than it.
    expect(worst * n).toBeLessThan(0.6)
    expect([Math.max(...values(halo)), Math.max(...values(depth))]).toEqual([1, 1])
  })

  test('bevel: a round rim is a quarter circle over the distance', () => {
    const n = 256
    const bar = fieldOf('grey', n, 8, (x) => (x >= 64 && x < 192 ? 1 : 0))
    const height = values(runNode('bevel', { source: bar }, { width: 0.125, profile: 'round' }).height)
    for (const texels of [0, 7, 15, 23, 31]) {
      const t = (texels + 0.5) / 32
      expect(height[64 + texels]).toBeCloseTo(Math.sqrt(1 - (1 - t) ** 2), 5)
    }
    expect([height[63], height[128]]).toEqual([0, 1])
    const outside = values(
      runNode('bevel', { source: bar }, { width: 0.125, profile: 'straight', side: 'outside' }).height,
    )
    expect(outside[60]).toBeCloseTo(1 - 3.5 / 32, 5)
  })

  test('regions: values are spread evenly, places run over each box, sizes add up', () => {
    const source = fieldOf('grey', 64, 64, (x, y) => ((x + 4) % 16 < 12 && (y + 4) % 16 < 12 ? 1 : 0))
    const { value, local, size, id } = runNode('regions', { source })
    const found = [...new Set(values(value))].filter((v) => v > 0).sort()
    expect(found).toHaveLength(16)
    found.forEach((v, i) => expect(v).toBeCloseTo((i + 0.5) / 16, 6))
    expect(Math.max(...id!.ids!)).toBe(16)
    expect(values(size)[0]).toBeCloseTo(144 / 4096, 6)
    // The area that lies across both borders begins at −4: its texel (0, 0) is the fifth of twelve.
    expect([values(local)[0], values(local, 1)[0]].map((v) => v!.toFixed(4))).toEqual([
      (4.5 / 12).toFixed(4),
      (4.5 / 12).toFixed(4),
    ])
  })

  test('height blend: the higher wins; the mask is the cubic of the difference', () => {
    const [first, second] = [constant(0.2), constant(0.8)]
    const at = (low: number, high: number, softness = 0.4) => {
      const out = runNode(
        'height-blend',
        { first, second, firstHeight: constant(low), secondHeight: constant(high) },
        { softness },
      )
      return [values(out.result)[0]!, values(out.mask)[0]!, values(out.height)[0]!]
    }
    at(0.9, 0.1).forEach((v, i) => expect(v).toBeCloseTo([0.2, 0, 0.9][i]!, 6))
    at(0.1, 0.9).forEach((v, i) => expect(v).toBeCloseTo([0.8, 1, 0.9][i]!, 6))
    expect(at(0.5, 0.6)[1]).toBeCloseTo(3 * 0.75 ** 2 - 2 * 0.75 ** 3, 5)
  })
})

describe('moves', () => {
  test('place by whole repeats and quarter turns is numpy’s tile and rot90', () => {
    const source = noisyField(32, 32, 3)
    const turned = python('out = np.rot90(a)', source.planes[0]!, [32, 32])
    expect(largestDifference(values(runNode('transform', { source }, { angle: 0.25 }).result), turned)).toBeLessThan(
      1e-6,
    )
    const moved = python('out = np.roll(a, (4, 8), (0, 1))', source.planes[0]!, [32, 32])
    expect(
      largestDifference(values(runNode('transform', { source }, { offset: [0.25, 0.125] }).result), moved),
    ).toBeLessThan(1e-6)
    const twice = values(runNode('transform', { source }, { scale: 0.5 }).result)
    for (let i = 0; i < 16; i++) expect(twice[i]).toBeCloseTo(twice[i + 16]!, 6)
  })

  test('place says what it snapped to', () => {
    const says = (params: Record<string, unknown>, metres: [number, number] = [1, 1]) => {
      const node = registry.get('transform')!
      return node.notes!(checkParameters(node, params) as never, { metres })[0]
    }
    expect(says({ angle: 0.11, scale: 0.7 })).toBe('Goes 1.414 times into the tile, turned by 0.125 turns.')
    expect(says({ scale: 5 })).toBe('Goes 1 times into the tile, turned by 0 turns.')
    expect(says({ angle: 0.3, scale: 0.4 }, [1, 2])).toBe('Goes 3 times into the tile, turned by 0.5 turns.')
  })

  test('directional blur is SciPy’s uniform filter; the maximum its maximum filter', () => {
    const source = noisyField(64, 16, 2)
    for (const [combine, filter] of [
      ['average', 'uniform_filter1d(a, 9, axis=1, mode="wrap")'],
      ['maximum', 'maximum_filter1d(a, 9, axis=1, mode="wrap")'],
      ['minimum', 'minimum_filter1d(a, 9, axis=1, mode="wrap")'],
    ]) {
      const theirs = python(`from scipy import ndimage\nout = ndimage.${filter}`, source.planes[0]!, [16, 64])
      expect(
        largestDifference(values(runNode('directional-blur', { source }, { length: 8 / 64, combine }).result), theirs),
      ).toBeLessThan(1e-5)
    }
  })

  test('warp in small steps goes downhill: below a wet spot on a slope its brightness runs', () => {
    const n = 64
    const hill = fieldOf('grey', n, n, (_, y) => 1 - Math.abs(y - 32) / 32)
    const spot = fieldOf('grey', n, n, (x, y) => (Math.hypot(x - 20, y - 46) < 3 ? 1 : 0))
    const out = values(
      runNode('warp', { source: spot, driver: hill }, { steps: 'small', strength: 0.2, combine: 'maximum' }).result,
    )
    // A place looks downhill: those above the spot on the lower half of the picture see it, those below do not.
    expect(out[38 * n + 20]).toBe(1)
    expect(out[54 * n + 20]).toBe(0)
  })
})

describe('surfaces', () => {
  test('curvature of a ball: 1/R, bright on a bump, dark in a hollow, from height and from normals', () => {
    const n = 256
    const ball = 0.3
    // Unit height 1 to 0.5 over heightMetres 1: the cap of a ball of radius 0.3 tiles, metres 1.
    const cap = fieldOf('grey', n, n, (x, y) => {
      const r = Math.hypot((x + 0.5) / n - 0.5, (y + 0.5) / n - 0.5)
      return r < 0.25 ? Math.sqrt(ball * ball - r * r) : Math.sqrt(ball * ball - 0.0625)
    })
    const at = (inputs: Record<string, Field>, strength = 1) =>
      values(runNode('curvature', inputs, { radius: 0.02, strength }, { heightMetres: 1 }).curvature)[128 * n + 128]!
    const expected = 0.5 + (0.5 * 0.02) / ball
    expect(Math.abs(at({ height: cap }) - expected)).toBeLessThan(0.001)
    const normal = runNode('height-to-normal', { height: cap }, {}, { heightMetres: 1 }).normal!
    expect(Math.abs(at({ normal }) - expected)).toBeLessThan(0.001)
    const hollow = fieldOf('grey', n, n, (x, y) => -cap.planes[0]![y * n + x]!)
    expect(Math.abs(at({ height: hollow }) - (1 - expected))).toBeLessThan(0.001)
    expect(at({ height: constant(0.3, n) })).toBe(0.5)
  })

  test('adjust normal: strength scales slopes, the turn turns them, green is flipped', () => {
    const leaning = fieldOf('normal', 4, 4, (_, __, p) => [0.6, 0, 0.8][p]!)
    const out = (params: Record<string, unknown>) =>
      runNode('adjust-normal', { source: leaning }, params).normal!.planes.map((plane) => plane[0]!)
    const near = (a: number[], b: number[]) => a.forEach((v, i) => expect(v).toBeCloseTo(b[i]!, 6))
    const l = Math.hypot(1.5, 1)
    near(out({ strength: 2 }), [1.5 / l, 0, 1 / l])
    near(out({ turn: 0.25 }), [0, 0.6, 0.8])
    near(out({ turn: 0.25, flipGreen: true }), [0, 0.6, 0.8])
    near(out({ strength: 0 }), [0, 0, 1])
  })
})
