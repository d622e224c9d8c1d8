import { floorMod } from '../field/field'
import { noisyField } from '../testing/fields'
import { python } from '../testing/python'
import { NOWHERE, nearestCrossings } from './distance-transform'

/** SciPy knows no wrapping: the plane is laid three by three, and the middle one is taken. */
const WRAPPED = `
from scipy import ndimage
h, w = a.shape
t = np.tile(a, (3, 3))
out = ndimage.distance_transform_edt(t < 0.5)[h:2*h, w:2*w]`

/** Distances to crossings that lie half a texel below marked texels: a texel and a half above is as far as one below. */
function distances(part: Float32Array, width: number, height: number): Float32Array {
  const { across, down } = nearestCrossings(part, width, height, () => {})
  return Float32Array.from(across, (dx, i) => {
    if (dx === NOWHERE) return NaN
    const [x, y] = [i % width, Math.floor(i / width)]
    const dy = down[y * width + floorMod(x + dx, width)]!
    return Math.sqrt(dx * dx + dy * dy)
  })
}

describe('exact distances against SciPy 1, scipy.ndimage.distance_transform_edt', () => {
  test.each([
    [24, 32, 0.02],
    [33, 17, 0.3],
    [20, 20, 0.004],
    [7, 45, 0.05],
  ])('%i × %i, %s of the texels crossed', (width, height, ratio) => {
    const noise = noisyField(width, height, 9).planes[0]!
    const part = noise.map((v, i) => (v < ratio || i === 11 ? 0.5 : NaN))
    // The same on a raster twice as fine, on which crossings halfway between centres are texels too.
    const fine = new Float32Array(4 * width * height)
    part.forEach((v, i) => {
      if (v === v) fine[(2 * Math.floor(i / width) + 1) * 2 * width + 2 * (i % width)] = 1
    })
    const theirs = python(WRAPPED, fine, [2 * height, 2 * width])
    const ours = distances(part, width, height)
    ours.forEach((d, i) =>
      expect(Math.abs(2 * d - theirs[2 * Math.floor(i / width) * 2 * width + 2 * (i % width)]!)).toBeLessThan(1e-4),
    )
  })
})

test('where nothing is crossed there is no way', () => {
  expect([...distances(new Float32Array(12).fill(NaN), 4, 3)]).toEqual(Array(12).fill(NaN))
})
