import type { CellsShape, Metric } from './cells'
import { cellDistances, cellPoint, cellValue } from './cells'
import { allRows } from './rows'

interface Point {
  x: number
  y: number
  id: number
}

/** Every point of the plane's tiling within three tiles, in lattice cells. */
function allPoints({ cells: [cx, cy], jitter }: CellsShape, seed: number): Point[] {
  const points: Point[] = []
  for (let iy = -cy; iy < 2 * cy; iy++)
    for (let ix = -cx; ix < 2 * cx; ix++) {
      const [wx, wy] = [((ix % cx) + cx) % cx, ((iy % cy) + cy) % cy]
      const [px, py] = cellPoint(seed, wx, wy, jitter)
      points.push({ x: ix + px, y: iy + py, id: wy * cx + wx })
    }
  return points
}

const distance: Record<Metric, (dx: number, dy: number) => number> = {
  euclid: (dx, dy) => Math.sqrt(dx * dx + dy * dy),
  manhattan: (dx, dy) => Math.abs(dx) + Math.abs(dy),
  chebyshev: (dx, dy) => Math.max(Math.abs(dx), Math.abs(dy)),
}

const cases: [string, CellsShape][] = [
  ['regular', { cells: [5, 4], jitter: 0, metric: 'euclid' }],
  ['half jitter', { cells: [6, 5], jitter: 0.5, metric: 'euclid' }],
  ['full jitter', { cells: [7, 7], jitter: 1, metric: 'euclid' }],
  ['few cells', { cells: [4, 4], jitter: 1, metric: 'euclid' }],
  ['manhattan', { cells: [6, 6], jitter: 1, metric: 'manhattan' }],
  ['chebyshev', { cells: [6, 6], jitter: 1, metric: 'chebyshev' }],
]

test.each(cases)('distances and borders equal brute force over all points: %s', (_, shape) => {
  const [width, height, seed] = [53, 41, 9]
  const n = width * height
  const out = {
    nearest: new Float32Array(n),
    second: new Float32Array(n),
    gap: new Float32Array(n),
    border: new Float32Array(n),
    value: new Float32Array(n),
    id: new Uint32Array(n),
  }
  cellDistances(shape, seed, { width, height }, allRows(height), out, (y) => y * width)
  const points = allPoints(shape, seed)
  const measure = distance[shape.metric]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x
      const px = ((x + 0.5) * shape.cells[0]) / width
      const py = ((y + 0.5) * shape.cells[1]) / height
      const sorted = points.map((q) => ({ q, d: measure(q.x - px, q.y - py) })).sort((a, b) => a.d - b.d)
      const [first, next] = sorted as [(typeof sorted)[0], (typeof sorted)[0]]
      expect(Math.abs(out.nearest[i]! - first.d)).toBeLessThan(1e-5)
      expect(Math.abs(out.second[i]! - next.d)).toBeLessThan(1e-5)
      expect(Math.abs(out.gap[i]! - (next.d - first.d))).toBeLessThan(2e-5)
      if (next.d - first.d < 1e-4) continue // on a border either side may win
      expect(out.id[i]).toBe(first.q.id)
      const [cx] = shape.cells
      expect(out.value[i]).toBe(Math.fround(cellValue(seed, first.q.id % cx, Math.floor(first.q.id / cx))))
      if (shape.metric !== 'euclid') continue
      // The border of a region is made of bisectors with every other point.
      let border = Infinity
      for (const { q } of sorted.slice(1, 60)) {
        const [dx, dy] = [q.x - first.q.x, q.y - first.q.y]
        const length = Math.hypot(dx, dy)
        const [mx, my] = [(q.x + first.q.x) / 2 - px, (q.y + first.q.y) / 2 - py]
        if (length > 0) border = Math.min(border, (mx * dx + my * dy) / length)
      }
      expect(Math.abs(out.border[i]! - border)).toBeLessThan(2e-5)
    }
})
