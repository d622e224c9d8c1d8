/**
 * Connected areas of marked texels on a torus.
 * Shape: `ids` holds 0 where nothing is marked, else 1 … count, numbered by each area's first texel in reading order.
 * Boxes may begin left of or above the raster, and end beyond it, where an area lies across the border.
 */
export interface Regions {
  readonly ids: Uint32Array
  readonly count: number
  /** Per area, at index id − 1. */
  readonly areas: readonly Region[]
}

/** Sides in texels, `right` and `bottom` exclusive; the centre in texels, within the raster. */
export interface Region {
  left: number
  top: number
  right: number
  bottom: number
  texels: number
  centre: [number, number]
}

/**
 * Labels areas by runs of texels along rows and a union-find that also keeps how often the way from one run to another
 * crosses the border, so that boxes and centres come out whole.
 * `links`, two texels each, join areas that hang together though they lie apart; what has them does not go on over its borders.
 * Source: R. Sedgewick, K. Wayne, "Algorithms", section 1.5 (weighted union-find with path compression); the offsets
 * are our own addition.
 */
export function labelRegions(
  marked: Uint8Array,
  width: number,
  height: number,
  corners: boolean,
  check: () => void = () => {},
  links: Uint32Array | null = null,
): Regions {
  const runs = findRuns(marked, width, height)
  const forest = new Forest(runs.start.length)
  const touch = corners ? 1 : 0
  /** Tiles to either side that a row goes on into. */
  const around = links ? 0 : 1
  for (let y = 0; y < height; y++) {
    check()
    const first = runs.rows[y]!
    const last = runs.rows[y + 1]! - 1
    if (around && last >= first && runs.start[first] === 0 && runs.end[last] === width) forest.unite(last, first, 1, 0)
    const below = (y + 1) % height
    const wraps = y + 1 === height ? 1 : 0
    if (wraps && !around) break
    for (let shift = -around; shift <= around; shift++)
      pairRuns(runs, y, below, shift * width, touch, (a, b) => forest.unite(a, b, shift, wraps))
  }
  for (let i = 0; links && i < links.length; i += 2) {
    const [from, to] = [links[i]!, links[i + 1]!]
    if (marked[from] && marked[to]) forest.unite(runAt(runs, from, width), runAt(runs, to, width), 0, 0)
  }
  return gatherRegions(runs, forest, width, height)
}

/** The run that a marked texel lies in. */
function runAt({ rows, start }: Runs, texel: number, width: number): number {
  const row = Math.floor(texel / width)
  const column = texel % width
  let low = rows[row]!
  let high = rows[row + 1]! - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (start[middle]! <= column) low = middle
    else high = middle - 1
  }
  return low
}

interface Runs {
  /** Index of each row's first run; one more at the end. */
  rows: Int32Array
  start: number[]
  end: number[]
}

function findRuns(marked: Uint8Array, width: number, height: number): Runs {
  const runs: Runs = { rows: new Int32Array(height + 1), start: [], end: [] }
  for (let y = 0; y < height; y++) {
    runs.rows[y] = runs.start.length
    for (let x = 0; x < width; x++) {
      if (!marked[y * width + x]) continue
      const start = x
      while (x < width && marked[y * width + x]) x++
      runs.start.push(start)
      runs.end.push(x)
    }
  }
  runs.rows[height] = runs.start.length
  return runs
}

/** Calls `meet` for runs of two rows that touch, the lower ones moved right by `shift` texels. */
function pairRuns(
  runs: Runs,
  upper: number,
  lower: number,
  shift: number,
  touch: number,
  meet: (a: number, b: number) => void,
): void {
  let a = runs.rows[upper]!
  let b = runs.rows[lower]!
  const aEnd = runs.rows[upper + 1]!
  const bEnd = runs.rows[lower + 1]!
  while (a < aEnd && b < bEnd) {
    const [as, ae] = [runs.start[a]!, runs.end[a]!]
    const [bs, be] = [runs.start[b]! + shift, runs.end[b]! + shift]
    if (as < be + touch && bs < ae + touch) meet(a, b)
    if (ae < be) a++
    else b++
  }
}

/** Sets of runs; each run knows its place relative to its parent in whole tiles. */
class Forest {
  private readonly parent: Int32Array
  readonly dx: Int32Array
  readonly dy: Int32Array

  constructor(size: number) {
    this.parent = Int32Array.from({ length: size }, (_, i) => i)
    this.dx = new Int32Array(size)
    this.dy = new Int32Array(size)
  }

  /** The set's root; afterwards dx, dy of `i` are relative to it. */
  find(i: number): number {
    const path: number[] = []
    let root = i
    while (this.parent[root] !== root) {
      path.push(root)
      root = this.parent[root]!
    }
    // From the root outward, so that each one's parent is right already.
    for (let k = path.length - 2; k >= 0; k--) {
      const one = path[k]!
      const parent = this.parent[one]!
      this.dx[one] = this.dx[one]! + this.dx[parent]!
      this.dy[one] = this.dy[one]! + this.dy[parent]!
      this.parent[one] = root
    }
    return root
  }

  /** Joins two runs, of which `b` continues `a` when moved by whole tiles. The earlier root stays. */
  unite(a: number, b: number, tilesX: number, tilesY: number): void {
    const ra = this.find(a)
    const rb = this.find(b)
    if (ra === rb) return
    const dx = this.dx[a]! + tilesX - this.dx[b]!
    const dy = this.dy[a]! + tilesY - this.dy[b]!
    if (ra < rb) this.attach(rb, ra, dx, dy)
    else this.attach(ra, rb, -dx, -dy)
  }

  private attach(child: number, root: number, dx: number, dy: number): void {
    this.parent[child] = root
    this.dx[child] = dx
    this.dy[child] = dy
  }
}

function gatherRegions(runs: Runs, forest: Forest, width: number, height: number): Regions {
  const ids = new Uint32Array(width * height)
  const idOf = new Int32Array(runs.start.length)
  const areas: (Region & { sumX: number; sumY: number })[] = []
  for (let y = 0; y < height; y++)
    for (let run = runs.rows[y]!; run < runs.rows[y + 1]!; run++) {
      const root = forest.find(run)
      if (idOf[root] === 0) {
        areas.push({
          left: Infinity,
          top: Infinity,
          right: -Infinity,
          bottom: -Infinity,
          texels: 0,
          centre: [0, 0],
          sumX: 0,
          sumY: 0,
        })
        idOf[root] = areas.length
      }
      const id = idOf[root]!
      const [start, end] = [runs.start[run]!, runs.end[run]!]
      ids.fill(id, y * width + start, y * width + end)
      const x0 = start + forest.dx[run]! * width
      const row = y + forest.dy[run]! * height
      const n = end - start
      const area = areas[id - 1]!
      area.left = Math.min(area.left, x0)
      area.right = Math.max(area.right, x0 + n)
      area.top = Math.min(area.top, row)
      area.bottom = Math.max(area.bottom, row + 1)
      area.texels += n
      area.sumX += n * (x0 + n / 2)
      area.sumY += n * (row + 0.5)
    }
  const within = (v: number, size: number): number => v - Math.floor(v / size) * size
  return {
    ids,
    count: areas.length,
    areas: areas.map(({ sumX, sumY, ...area }) => ({
      ...area,
      centre: [within(sumX / area.texels, width), within(sumY / area.texels, height)],
    })),
  }
}

/** Flags of the texels of a grey plane that reach `level`, rows found by `at`. */
export function markAbove(
  at: (y: number) => number,
  plane: Float32Array,
  width: number,
  height: number,
  level: number,
): Uint8Array {
  const marked = new Uint8Array(width * height)
  for (let y = 0; y < height; y++) {
    const start = at(y)
    for (let x = 0; x < width; x++) marked[y * width + x] = plane[start + x]! >= level ? 1 : 0
  }
  return marked
}
