import { noisyField } from '../testing/fields'
import { python } from '../testing/python'
import { labelRegions } from './regions'

/** SciPy's labels of the plane, joined across the border and numbered by first appearance. */
const WRAPPED = (corners: boolean) => `
from scipy import ndimage
m = a > 0.5
lab, n = ndimage.label(m, structure=np.ones((3,3)) if ${corners ? 'True' : 'False'} else None)
parent = list(range(n + 1))
def find(i):
    while parent[i] != i: i = parent[i]
    return i
h, w = m.shape
reach = (-1, 0, 1) if ${corners ? 'True' : 'False'} else (0,)
for y in range(h):
    for d in reach:
        p, q = lab[y, w-1], lab[(y+d) % h, 0]
        if p and q: parent[find(p)] = find(q)
for x in range(w):
    for d in reach:
        p, q = lab[h-1, x], lab[0, (x+d) % w]
        if p and q: parent[find(p)] = find(q)
order = {}
out = np.zeros(m.shape)
for y in range(h):
    for x in range(w):
        if lab[y, x]: out[y, x] = order.setdefault(find(lab[y, x]), len(order) + 1)`

describe('labels against SciPy 1, scipy.ndimage.label, joined across the border', () => {
  test.each([
    [30, 41, 0.45, false],
    [30, 41, 0.4, true],
    [64, 17, 0.6, false],
    [9, 9, 0.5, true],
  ])('%i × %i, %s marked, corners %s', (width, height, ratio, corners) => {
    const flags = noisyField(width, height, 21).planes[0]!.map((v) => (v < ratio ? 1 : 0))
    const { ids, areas, count } = labelRegions(Uint8Array.from(flags), width, height, corners)
    const theirs = python(WRAPPED(corners), flags, [height, width])
    expect(Float32Array.from(ids)).toEqual(theirs)
    for (let id = 1; id <= count; id++) expect(areas[id - 1]!.texels).toBe(theirs.filter((v) => v === id).length)
  })
})

test('an area across both borders has one box and its centre where it is', () => {
  const [w, h] = [10, 8]
  const marked = new Uint8Array(w * h)
  for (const y of [7, 0, 1]) for (const x of [8, 9, 0, 1]) marked[y * w + x] = 1
  const { count, areas } = labelRegions(marked, w, h, false)
  expect(count).toBe(1)
  const { left, right, top, bottom, texels, centre } = areas[0]!
  expect([right - left, bottom - top, texels]).toEqual([4, 3, 12])
  expect(centre).toEqual([0, 0.5])
})
