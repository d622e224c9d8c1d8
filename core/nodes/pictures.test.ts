import type { Field } from '../field/field'
import { fieldOf, largestDifference, noisyField } from '../testing/fields'
import { onPart } from '../document/domain'
import { exampleDocument } from '../graph/example-document'
import { EXAMPLE_PART } from '../graph/example-part'
import { materialHere } from '../testing/material-here'
import { registry } from './registry.generated'
import { python } from '../testing/python'
import { constant, runNode, values } from '../testing/run-node'

const TURN = 2 * Math.PI

describe('normal to height', () => {
  // A surface of a few waves, none of which is the fastest that texels can hold.
  const surface = (n: number, rows = n): Field =>
    fieldOf(
      'grey',
      n,
      rows,
      (x, y) =>
        0.5 +
        0.1 * Math.sin(TURN * ((2 * x) / n + (3 * y) / rows)) +
        0.05 * Math.cos(TURN * ((5 * x) / n - y / rows)) +
        0.02 * Math.sin((TURN * 7 * y) / rows),
    )

  test.each([
    [64, 64],
    [48, 48],
    [60, 60],
  ])('heights to normals and back are the same heights, %i × %i', (n, rows) => {
    const height = surface(n, rows)
    const { normal } = runNode('height-to-normal', { height }, { strength: 1 })
    const back = runNode('normal-to-height', { normal: normal! }, {})
    expect(largestDifference(values(back.height), values(height))).toBeLessThan(2e-6)
  })

  test('strength scales, and turns bumps into hollows', () => {
    const height = surface(32)
    const { normal } = runNode('height-to-normal', { height }, {})
    const back = values(runNode('normal-to-height', { normal: normal! }, { strength: -2 }).height)
    expect(
      largestDifference(
        back,
        values(height).map((v) => 0.5 - 2 * (v - 0.5)),
      ),
    ).toBeLessThan(4e-6)
    expect([...values(runNode('normal-to-height', { normal: normal! }, { strength: 0 }).height)]).toEqual(
      Array(32 * 32).fill(0.5),
    )
  })

  test('slopes of the true surface give it back by a second implementation (NumPy), noise and all', () => {
    const n = 64
    const noise = noisyField(n, n, 5)
    // Slopes that no surface has: least squares finds the nearest.
    const normal = fieldOf('normal', n, n, (x, y, p) => {
      const dx = 0.3 * Math.cos((TURN * 3 * x) / n) + 0.2 * (noise.planes[0]![y * n + x]! - 0.5)
      const dy = 0.2 * Math.sin((TURN * 2 * y) / n)
      const length = Math.sqrt(dx * dx + dy * dy + 1)
      return [-dx, dy, 1][p]! / length
    })
    // One tile of 1 m with heights of 0.05 m (run-node): a texel is 1/64 m.
    const theirs = python(
      `p, q = -a[0] / a[2], a[1] / a[2]
k = np.fft.fftfreq(${n}, 1 / ${n}) * 2 * np.pi
k[${n} // 2] = 0
u, v = np.meshgrid(k, k)
s = u * u + v * v
s[s == 0] = np.inf
H = -1j * (u * np.fft.fft2(p) + v * np.fft.fft2(q)) / s
out = 0.5 + np.fft.ifft2(H).real / 0.05`,
      Float32Array.from(normal.planes.flatMap((plane) => [...plane])),
      [3, n, n],
    )
    const ours = values(runNode('normal-to-height', { normal }, { slopes: 'true' }).height)
    expect(largestDifference(ours, theirs)).toBeLessThan(1e-5)
  })
})

describe('image to normal', () => {
  const flat = { fine: 0, medium: 0, large: 0 }
  test('each band is the difference of two of SciPy’s Gaussians', () => {
    const n = 64
    const source = noisyField(n, n, 8)
    const blurred = (sigma: number): Float32Array =>
      python(
        `from scipy import ndimage\nout = ndimage.gaussian_filter(a, ${sigma}, mode="wrap", truncate=4.0)`,
        values(source),
        [n, n],
      )
    const [size, finest] = [0.125, values(source)]
    const blurs = [finest, blurred(0.5), blurred(2), blurred(8)]
    for (const [i, band] of (['fine', 'medium', 'large'] as const).entries()) {
      const { height } = runNode('image-to-normal', { source, polarity: constant(1, n) }, { ...flat, [band]: 1, size })
      const expected = blurs[i]!.map((v, k) => 0.5 + v - blurs[i + 1]![k]!)
      expect(largestDifference(values(height), expected)).toBeLessThan(1e-3)
    }
  })

  test('what the polarity mask says recedes where bright stands out elsewhere, and is flat between', () => {
    const n = 64
    const source = noisyField(n, n, 9)
    const at = (polarity: number): Float32Array =>
      values(runNode('image-to-normal', { source, polarity: constant(polarity, n) }, {}).height)
    const out = at(1)
    expect(
      largestDifference(
        at(0),
        out.map((v) => 1 - v),
      ),
    ).toBeLessThan(1e-6)
    expect([...new Set(at(0.5))]).toEqual([0.5])
    expect(Math.max(...out)).toBeGreaterThan(0.6)
  })

  test('its normals are those of its height, and a colour counts by how bright it looks', () => {
    const n = 32
    const grey = noisyField(n, n, 10)
    const colour = fieldOf('colour', n, n, (x, y) => grey.planes[0]![y * n + x]!)
    const given = { source: colour, polarity: constant(1, n) }
    const { height, normal } = runNode('image-to-normal', given, { strength: 2 })
    const bent = runNode('height-to-normal', { height: height! }, {})
    for (const p of [0, 1, 2]) expect(largestDifference(values(normal, p), values(bent.normal, p))).toBeLessThan(1e-6)
    const ofGrey = runNode('image-to-normal', { ...given, source: grey }, { strength: 2 })
    expect(largestDifference(values(ofGrey.height), values(height))).toBeLessThan(1e-6)
  })
})

describe('close edges', () => {
  const n = 64
  /** A picture whose borders do not fit: brighter to the right and down, with grain. */
  const uneven = (): Field => {
    const grain = noisyField(n, n, 11)
    return fieldOf('grey', n, n, (x, y) => (x + 2 * y) / (3 * n) + 0.02 * grain.planes[0]![y * n + x]!)
  }
  /** Mean step from one side of a border to the other. */
  const steps = (plane: Float32Array): { across: number; down: number } => {
    let [across, down] = [0, 0]
    for (let i = 0; i < n; i++) {
      across += Math.abs(plane[i * n]! - plane[i * n + n - 1]!) / n
      down += Math.abs(plane[i]! - plane[(n - 1) * n + i]!) / n
    }
    return { across, down }
  }

  test.each(['cut', 'fade'])('%s: borders go on at the other side; the middle is the picture’s own', (method) => {
    const source = uneven()
    const result = values(runNode('close-edges', { source }, { method }).result)
    expect(steps(values(source)).across).toBeGreaterThan(0.3)
    // Neighbours inside differ by a 64th and the grain.
    expect(steps(result).across).toBeLessThan(0.03)
    expect(steps(result).down).toBeLessThan(0.03)
    for (let y = 20; y < 44; y++)
      for (let x = 20; x < 44; x++) expect(result[y * n + x]).toBe(values(source)[y * n + x])
  })

  test('only the borders that are asked for', () => {
    const source = uneven()
    const result = values(runNode('close-edges', { source }, { edges: 'left and right' }).result)
    expect(steps(result).across).toBeLessThan(0.03)
    expect(steps(result).down).toBeGreaterThan(0.5)
  })

  test('a cut goes where the picture is like itself moved by half: along a groove, wherever it bends', () => {
    // Alike only in a line that winds down the left band: there nothing is to be seen of the cut.
    const winding = (y: number): number => 6 + Math.round(3 * Math.sin((TURN * y) / n))
    const source = fieldOf('grey', n, n, (x, y) =>
      x === winding(y) || x === winding(y) + n / 2 ? 0.5 : x < n / 2 ? 0.9 : 0.1,
    )
    const result = values(runNode('close-edges', { source }, { softness: 0, edges: 'left and right' }).result)
    for (let y = 0; y < n; y++) {
      // Left of the line the other half, right of it its own.
      expect(result[y * n + winding(y) - 2]).toBeCloseTo(0.1, 5)
      expect(result[y * n + winding(y) + 2]).toBeCloseTo(0.9, 5)
    }
  })
})

test.each(['close-edges', 'normal-to-height'])('%s says on a part why it cannot be there', async (type) => {
  const node = registry.get(type)!
  const output = { kind: 'port', node: 'example', port: Object.keys(node.outputs)[0]! } as const
  const document = onPart({ ...exampleDocument(node), domain: { kind: 'part' } }, EXAMPLE_PART)
  await expect(materialHere(document).evaluate({ outputs: [output], width: 32 })).rejects.toMatchObject({
    code: 'parameter-invalid',
    detail: node.tilesOnly,
  })
})
