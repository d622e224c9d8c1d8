import { createField } from '../field/field'
import { noisyField } from '../testing/fields'
import { python } from '../testing/python'
import type { Footprint } from './morphology'
import { growField } from './morphology'
import { allRows } from './rows'

const [W, H] = [45, 38]

function grown(radius: number, shape: Footprint, sign: 1 | -1): Float32Array {
  const out = createField('grey', W, H)
  growField(noisyField(W, H, 5), out, allRows(H), radius, shape, sign)
  return out.planes[0]!
}

const theirs = (radius: number, shape: Footprint, sign: 1 | -1): Float32Array =>
  python(
    `from scipy import ndimage
r = ${radius}
y, x = np.mgrid[-r:r+1, -r:r+1]
foot = (x*x + y*y <= r*r) if "${shape}" == "round" else np.ones((2*r+1, 2*r+1), bool)
out = ndimage.${sign === 1 ? 'grey_dilation' : 'grey_erosion'}(a, footprint=foot, mode="wrap")`,
    noisyField(W, H, 5).planes[0]!,
    [H, W],
  )

describe('grey dilation and erosion against SciPy 1, scipy.ndimage.grey_dilation, grey_erosion', () => {
  test.each([1, 2, 5, 11])('radius %i, round and square, growing and shrinking', (radius) => {
    for (const shape of ['round', 'square'] as const)
      for (const sign of [1, -1] as const)
        expect([shape, sign, grown(radius, shape, sign)]).toEqual([shape, sign, theirs(radius, shape, sign)])
  })
})

test('radius 0 changes nothing; between whole radii it mixes them; wider than the field it is one value', () => {
  expect(grown(0, 'round', 1)).toEqual(noisyField(W, H, 5).planes[0])
  const [two, three, between] = [grown(2, 'round', 1), grown(3, 'round', 1), grown(2.25, 'round', 1)]
  between.forEach((v, i) => expect(Math.abs(v - (two[i]! * 0.75 + three[i]! * 0.25))).toBeLessThan(1e-6))
  expect(new Set(grown(60, 'square', -1)).size).toBe(1)
})
