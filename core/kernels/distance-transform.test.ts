import { noisyField } from '../testing/fields'
import { python } from '../testing/python'
import { distanceToMarked } from './distance-transform'

/** SciPy knows no wrapping: the plane is laid three by three, and the middle one is taken. */
const WRAPPED = `
from scipy import ndimage
h, w = a.shape
t = np.tile(a, (3, 3))
out = ndimage.distance_transform_edt(t < 0.5)[h:2*h, w:2*w]`

describe('exact distances against SciPy 1, scipy.ndimage.distance_transform_edt', () => {
  test.each([
    [48, 64, 0.02],
    [65, 33, 0.3],
    [40, 40, 0.001],
    [7, 90, 0.05],
  ])('%i × %i, %s marked', (width, height, share) => {
    const noise = noisyField(width, height, 9).planes[0]!
    const flags = noise.map((v, i) => (v < share || i === 11 ? 1 : 0))
    const theirs = python(WRAPPED, flags, [height, width])
    expect(distanceToMarked(Uint8Array.from(flags), width, height)).toEqual(theirs)
  })
})

test('nothing marked is as far as a torus allows, all marked is nowhere', () => {
  expect([...distanceToMarked(new Uint8Array(12), 4, 3)]).toEqual(Array(12).fill(2.5))
  expect([...distanceToMarked(new Uint8Array(12).fill(1), 4, 3)]).toEqual(Array(12).fill(0))
})
