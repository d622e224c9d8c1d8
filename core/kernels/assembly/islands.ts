import { READ_BYTES, packTurned } from './reads'

/**
 * Where the surface of a part goes on beyond the borders of an island: the nearest border edge of each texel around it, then the straight
 * line from there over the triangles laid flat. core/kernels/island-borders.ts tells what is where; all numbers in float64 unless said.
 */
/** Of a border edge: where it begins and its way, that squared, what a seam goes before others by, its number. */
const EDGE: usize = 56
/** At a corner two edges are equally near: those that differ by less than this, as shares of the distance squared, are. */
const EQUAL: f64 = 1e-4
const CORE: u8 = 2
const RIM: u8 = 1
/** Triangles that a line crosses at most. */
const MAX_CROSSED: i32 = 1024
/** How far around a place a texel of the same island is looked for, where one of the four about it is a stranger's. */
const AROUND: i32 = 2

let border: usize = 0
let core: usize = 0
let own: usize = 0
let away: usize = 0
let columns: i32 = 0
let lines: i32 = 0

/**
 * The texels of an island's box that is `by` texels larger on each side, none of which has an edge yet: `own` numbers of edges (i32),
 * `away` their distances squared (f32); `core` (u8) 1 where the island is inside.
 */
export function beginBorder(
  borderAt: usize,
  coreAt: usize,
  ownAt: usize,
  awayAt: usize,
  width: i32,
  height: i32,
  cover: usize,
  coverWidth: i32,
  coverHeight: i32,
  by: i32,
): void {
  border = borderAt
  core = coreAt
  own = ownAt
  away = awayAt
  columns = width
  lines = height
  const count = width * height
  memory.fill(core, 0, count)
  memory.fill(own, 0xff, (<usize>count) << 2)
  for (let at: usize = 0; at < (<usize>count) << 2; at += 16) v128.store(away + at, f32x4.splat(1e30))
  for (let y = 0; y < coverHeight; y++) {
    const from = cover + <usize>(y * coverWidth)
    const to = core + <usize>((y + by) * width + by)
    for (let x: usize = 0; x < <usize>coverWidth; x++) store<u8>(to + x, <u8>(load<u8>(from + x) == CORE))
  }
}

/** Offers an edge to a texel: the nearer one counts; of two equally near a seam, then the one it is more squarely in front of. */
function offer(at: i32, x: i32, y: i32, number: i32): void {
  const edge = border + <usize>number * EDGE
  const bx = load<f64>(edge, 16)
  const by = load<f64>(edge, 24)
  const px = <f64>x + 0.5 - load<f64>(edge)
  const py = <f64>y + 0.5 - load<f64>(edge, 8)
  const length2 = load<f64>(edge, 32)
  const share = (px * bx + py * by) / length2
  const along = share < 0 ? 0 : share > 1 ? 1 : share
  const qx = px - along * bx
  const qy = py - along * by
  const near = qx * qx + qy * qy
  const to = (<usize>at) << 2
  const before = <f64>load<f32>(away + to)
  if (near > before * (1 + EQUAL) + 1e-7) return
  const isNearer = near < before * (1 - EQUAL) - 1e-7
  if (!isNearer && !(squarely(number, x, y) > <f64>(<f32>squarely(load<i32>(own + to), x, y)))) return
  store<f32>(away + to, <f32>near)
  store<i32>(own + to, number)
}

/** How squarely a texel is in front of an edge: seams come before others. */
function squarely(number: i32, x: i32, y: i32): f64 {
  const edge = border + <usize>number * EDGE
  const px = <f64>x + 0.5 - load<f64>(edge)
  const py = <f64>y + 0.5 - load<f64>(edge, 8)
  const across = px * load<f64>(edge, 24) - py * load<f64>(edge, 16)
  return (across * across) / load<f64>(edge, 32) + load<f64>(edge, 40)
}

/** Offers edges `from` to `to` to the texels within `around` of them. */
export function seedBorder(from: i32, to: i32, around: i32): void {
  for (let number = from; number < to; number++) {
    const edge = border + <usize>number * EDGE
    const ax = load<f64>(edge)
    const ay = load<f64>(edge, 8)
    const dx = load<f64>(edge, 16)
    const dy = load<f64>(edge, 24)
    const steps = Math.ceil(Math.sqrt(dx * dx + dy * dy) * 1.5) + 1
    for (let i: f64 = 0; i <= steps; i++) {
      const cx = <i32>Math.floor(ax + (dx * i) / steps)
      const cy = <i32>Math.floor(ay + (dy * i) / steps)
      const right = min(columns - 1, cx + around)
      const bottom = min(lines - 1, cy + around)
      for (let y = max(0, cy - around); y <= bottom; y++)
        for (let x = max(0, cx - around); x <= right; x++)
          if (!load<u8>(core + <usize>(y * columns + x))) offer(y * columns + x, x, y, number)
    }
  }
}

/** Carries edges on from row to row, `rows` of them from `top` on, downward for `step` 1 and upward for −1, as far as `far`, squared. */
export function sweepBorder(top: i32, rows: i32, step: i32, far: f64): void {
  for (let i = 0, y = top; i < rows; i++, y += step) {
    const row = y * columns
    const before = (y - step) * columns
    // Three texels of the row before, then the one to the left.
    const nearby = y - step < 0 || y - step >= lines ? 3 : 0
    for (let x = 0; x < columns; x++) {
      if (load<u8>(core + <usize>(row + x))) continue
      for (let k = nearby; k < 4; k++) {
        const column = k == 3 ? x - 1 : x - 1 + k
        if (<u32>column < <u32>columns) take(row + x, x, y, (k == 3 ? row : before) + column, far)
      }
    }
    for (let x = columns - 2; x >= 0; x--) if (!load<u8>(core + <usize>(row + x))) take(row + x, x, y, row + x + 1, far)
  }
}

/** Offers a texel the edge of another one; what is too far off there is out of reach here. */
function take(at: i32, x: i32, y: i32, from: i32, far: f64): void {
  const number = load<i32>(own + ((<usize>from) << 2))
  if (number < 0 || number == load<i32>(own + ((<usize>at) << 2))) return
  if (<f64>load<f32>(away + ((<usize>from) << 2)) < far) offer(at, x, y, number)
}

/** By texel of the raster its island (i32), −1 of none. */
export let owner: usize = 0
export let width: i32 = 0
export let height: i32 = 0

export function beginRaster(ownerAt: usize, rasterWidth: i32, rasterHeight: i32): void {
  owner = ownerAt
  width = rasterWidth
  height = rasterHeight
}

function isOwn(island: i32, x: i32, y: i32): bool {
  if (<u32>x >= <u32>width || <u32>y >= <u32>height) return false
  return load<i32>(owner + ((<usize>(y * width + x)) << 2)) == island
}

/**
 * What becomes of the box: by texel the number of the edge that it goes on over, −1 where it does not, where edges were counted before; by
 * row how many do, into `counts` (i32). Those do that are not the island's own and no farther off than `far`, squared.
 */
export function closeBorder(island: i32, left: i32, top: i32, far: f64, counts: usize): void {
  for (let y = 0; y < lines; y++) {
    let count = 0
    for (let x = 0; x < columns; x++) {
      const at = (<usize>(y * columns + x)) << 2
      const number = load<i32>(own + at)
      const goesOn = number >= 0 && <f64>load<f32>(away + at) <= far && !isOwn(island, left + x, top + y)
      store<i32>(own + at, goesOn ? numberOf(number) : -1)
      count += <i32>goesOn
    }
    store<i32>(counts + ((<usize>y) << 2), count)
  }
}

/** The same of the rim alone: of the island's own texels that are not inside, where the surface goes on (`twin`: i32). */
export function closeRim(
  island: i32,
  left: i32,
  top: i32,
  cover: usize,
  coverWidth: i32,
  twin: usize,
  counts: usize,
): void {
  for (let y = 0; y < lines; y++) {
    let count = 0
    for (let x = 0; x < columns; x++) {
      const at = (<usize>(y * columns + x)) << 2
      const number = load<i32>(own + at)
      const edge = number < 0 || x >= coverWidth ? -1 : numberOf(number)
      const goesOn =
        edge >= 0 &&
        load<u8>(cover + <usize>(y * coverWidth + x)) == RIM &&
        isOwn(island, left + x, top + y) &&
        load<i32>(twin + ((<usize>edge) << 2)) >= 0
      store<i32>(own + at, goesOn ? edge : -1)
      count += <i32>goesOn
    }
    store<i32>(counts + ((<usize>y) << 2), count)
  }
}

function numberOf(edge: i32): i32 {
  return <i32>load<f64>(border + <usize>edge * EDGE, 48)
}

/** Where a · x is a number, within what whole numbers hold. */
function crossing(a: f64, value: f64): f64 {
  return a == 0 ? 0 : max(-1e9, min(1e9, value / a))
}

/** Texels that triangles touch in a box: `list` are their numbers (i32), the rest as an Unfolding has it; into `cover` (u8) as CORE and RIM. */
export function coverTriangles(
  list: usize,
  count: i32,
  placesAt: usize,
  linesAt: usize,
  left: i32,
  top: i32,
  boxWidth: i32,
  cover: usize,
): void {
  for (let i = 0; i < count; i++) {
    const t = <usize>load<i32>(list + ((<usize>i) << 2))
    const c = placesAt + t * 48
    const l = linesAt + t * 72
    const x0 = load<f64>(c)
    const y0 = load<f64>(c, 8)
    const x1 = load<f64>(c, 16)
    const y1 = load<f64>(c, 24)
    const x2 = load<f64>(c, 32)
    const y2 = load<f64>(c, 40)
    const fromX = <i32>Math.floor(min(x0, min(x1, x2)))
    const toX = <i32>Math.ceil(max(x0, max(x1, x2)))
    const fromY = <i32>Math.floor(min(y0, min(y1, y2)))
    const toY = <i32>Math.ceil(max(y0, max(y1, y2)))
    const a0 = load<f64>(l)
    const b0 = load<f64>(l, 8)
    const c0 = load<f64>(l, 16)
    const a1 = load<f64>(l, 24)
    const b1 = load<f64>(l, 32)
    const c1 = load<f64>(l, 40)
    const a2 = load<f64>(l, 48)
    const b2 = load<f64>(l, 56)
    const c2 = load<f64>(l, 64)
    // Half a texel's square along each edge's normal.
    const half0 = (abs(a0) + abs(b0)) / -2
    const half1 = (abs(a1) + abs(b1)) / -2
    const half2 = (abs(a2) + abs(b2)) / -2
    for (let y = fromY; y < toY; y++) {
      const row = cover + <usize>((y - top) * boxWidth - left)
      const cy = <f64>y + 0.5
      // Where the row may be touched, a texel more on each side.
      const s0 = crossing(a0, half0 - b0 * cy - c0)
      const s1 = crossing(a1, half1 - b1 * cy - c1)
      const s2 = crossing(a2, half2 - b2 * cy - c2)
      const begin = max(a0 > 0 ? s0 : -1e9, max(a1 > 0 ? s1 : -1e9, a2 > 0 ? s2 : -1e9))
      const end = min(a0 < 0 ? s0 : 1e9, min(a1 < 0 ? s1 : 1e9, a2 < 0 ? s2 : 1e9))
      const last = min(toX, <i32>Math.ceil(end) + 1)
      for (let x = max(fromX, <i32>Math.floor(begin) - 1); x < last; x++) {
        const cx = <f64>x + 0.5
        const first = a0 * cx + b0 * cy + c0
        if (first < half0) continue
        const second = a1 * cx + b1 * cy + c1
        if (second < half1) continue
        const third = a2 * cx + b2 * cy + c2
        if (third < half2) continue
        const at = row + <usize>x
        if (min(first, min(second, third)) >= -1e-9) store<u8>(at, CORE)
        else if (!load<u8>(at)) store<u8>(at, RIM)
      }
    }
  }
}

/** The eight neighbours of all that is touched are rim too, so that every bilinear foot of every border point is owned. */
export function addNeighbours(touched: usize, out: usize, boxWidth: i32, boxHeight: i32): void {
  memory.copy(out, touched, boxWidth * boxHeight)
  const line = <usize>boxWidth
  for (let y = 1; y < boxHeight - 1; y++) {
    const row = touched + <usize>y * line
    const to = out + <usize>y * line
    for (let x: usize = 1; x < line - 1; x++) {
      if (load<u8>(row + x)) continue
      const above = load<u8>(row + x - line - 1) | load<u8>(row + x - line) | load<u8>(row + x - line + 1)
      const below = load<u8>(row + x + line - 1) | load<u8>(row + x + line) | load<u8>(row + x + line + 1)
      if (above | below | load<u8>(row + x - 1) | load<u8>(row + x + 1)) store<u8>(to + x, RIM)
    }
  }
}

/** Gives texels of one level of a box to its island, where they are nobody's yet. Of the raster that beginRaster was told. */
export function claimTexels(
  cover: usize,
  level: u8,
  island: i32,
  left: i32,
  top: i32,
  boxWidth: i32,
  boxHeight: i32,
): void {
  const right = min(boxWidth, width - left)
  const bottom = min(boxHeight, height - top)
  for (let y = max(0, -top); y < bottom; y++)
    for (let x = max(0, -left); x < right; x++) {
      if (load<u8>(cover + <usize>(y * boxWidth + x)) != level) continue
      const at = owner + ((<usize>((y + top) * width + x + left)) << 2)
      if (load<i32>(at) < 0) store<i32>(at, island)
    }
}

export let places: usize = 0
export let maps: usize = 0
let sides: usize = 0
let twins: usize = 0
let islands: usize = 0

/** The layout that lines go over: `islands` (i32) by triangle, `twins` (i32) by half-edge, the others as an Unfolding has them. */
export function beginLayout(placesAt: usize, mapsAt: usize, linesAt: usize, twinAt: usize, islandsAt: usize): void {
  places = placesAt
  maps = mapsAt
  sides = linesAt
  twins = twinAt
  islands = islandsAt
}

/** Where a line ended: the place, its triangle, the linear part of the way there; whether it found an end. */
let endX: f64 = 0
let endY: f64 = 0
let endTriangle: i32 = 0
let a: f64 = 1
let b: f64 = 0
let c: f64 = 0
let d: f64 = 1
let isFound: bool = true

export function nextEdge(edge: i32): i32 {
  return edge % 3 == 2 ? edge - 2 : edge + 1
}

/** Where along an edge the point of its line lies that is nearest to a place: 0 at its beginning, 1 at its end. */
export function shareOf(edge: i32, x: f64, y: f64): f64 {
  const from = places + ((<usize>edge) << 4)
  const to = places + ((<usize>nextEdge(edge)) << 4)
  const ax = load<f64>(from)
  const ay = load<f64>(from, 8)
  const bx = load<f64>(to) - ax
  const by = load<f64>(to, 8) - ay
  return ((x - ax) * bx + (y - ay) * by) / (bx * bx + by * by)
}

export function alongEdge(edge: i32, share: f64, axis: usize): f64 {
  const from = load<f64>(places + ((<usize>edge) << 4) + axis)
  return from + share * (load<f64>(places + ((<usize>nextEdge(edge)) << 4) + axis) - from)
}

function rest(x: f64, y: f64, triangle: i32, found: bool): void {
  endX = x
  endY = y
  endTriangle = triangle
  a = 1
  b = 0
  c = 0
  d = 1
  isFound = found
}

/**
 * Follows the straight line from the nearest point of a border edge to a place beyond it over the surface, laid flat triangle by
 * triangle. Seams are edges like any other: any number of islands is crossed, and the line turns about corners by itself. Along an open
 * border it slides.
 */
function walk(from: i32, toX: f64, toY: f64): void {
  let x = toX
  let y = toY
  let share = shareOf(from, x, y)
  share = share < 0 ? 0 : share > 1 ? 1 : share
  const beginX = alongEdge(from, share, 0)
  const beginY = alongEdge(from, share, 8)
  let fx = beginX
  let fy = beginY
  let triangle = from / 3
  // Where the line leaves its triangle, and over which edge: the border to begin with.
  let edge = from
  let qx = fx
  let qy = fy
  a = 1
  b = 0
  c = 0
  d = 1
  for (let steps = 1; ; steps++) {
    if (steps > MAX_CROSSED) {
      rest(beginX, beginY, from / 3, false)
      return
    }
    let entered = load<i32>(twins + ((<usize>edge) << 2))
    if (entered < 0) {
      if (steps == 1) {
        rest(beginX, beginY, triangle, true)
        return
      }
      const along = shareOf(edge, x, y)
      x = alongEdge(edge, along, 0)
      y = alongEdge(edge, along, 8)
      fx = qx
      fy = qy
      entered = edge
    } else {
      const map = maps + <usize>edge * 48
      const m0 = load<f64>(map)
      const m1 = load<f64>(map, 8)
      const m2 = load<f64>(map, 16)
      const m3 = load<f64>(map, 24)
      const m4 = load<f64>(map, 32)
      const m5 = load<f64>(map, 40)
      fx = m0 * qx + m1 * qy + m2
      fy = m3 * qx + m4 * qy + m5
      const nextX = m0 * x + m1 * y + m2
      y = m3 * x + m4 * y + m5
      x = nextX
      const nextA = m0 * a + m1 * c
      const nextB = m0 * b + m1 * d
      c = m3 * a + m4 * c
      d = m3 * b + m4 * d
      a = nextA
      b = nextB
      triangle = entered / 3
    }
    // The first edge that the line crosses on its way.
    edge = -1
    let first: f64 = 2
    for (let e = triangle * 3; e < triangle * 3 + 3; e++) {
      if (e == entered) continue
      const side = sides + <usize>e * 24
      const p = load<f64>(side)
      const q = load<f64>(side, 8)
      const r = load<f64>(side, 16)
      const end = p * x + q * y + r
      if (end >= -1e-9) continue
      const begin = p * fx + q * fy + r
      const start = begin > 0 ? begin : 0
      const at = start / (start - end)
      if (at < first) {
        first = at
        edge = e
      }
    }
    if (edge < 0) break
    qx = fx + (x - fx) * first
    qy = fy + (y - fy) * first
  }
  endX = x
  endY = y
  endTriangle = triangle
  isFound = true
}

export let readX: f32 = 0
export let readY: f32 = 0

/** Where a value is read for a place, (0, 0) the centre of the first texel: between four texels of its island, or at the nearest. */
export function isReadable(island: i32, x: f64, y: f64): bool {
  if (island < 0) return false
  const sx = <f32>(x - 0.5)
  const sy = <f32>(y - 0.5)
  const ix = <i32>Math.floor(sx)
  const iy = <i32>Math.floor(sy)
  const right = <f64>sx > <f64>ix ? ix + 1 : ix
  const below = <f64>sy > <f64>iy ? iy + 1 : iy
  if (isOwn(island, ix, iy) && isOwn(island, right, iy) && isOwn(island, ix, below) && isOwn(island, right, below)) {
    readX = sx
    readY = sy
    return true
  }
  let nearest: f64 = Infinity
  for (let row = iy - AROUND; row <= iy + AROUND + 1; row++)
    for (let column = ix - AROUND; column <= ix + AROUND + 1; column++) {
      if (!isOwn(island, column, row)) continue
      const dx = <f64>column - <f64>sx
      const dy = <f64>row - <f64>sy
      const off = dx * dx + dy * dy
      if (off < nearest) {
        nearest = off
        readX = <f32>column
        readY = <f32>row
      }
    }
  return nearest < Infinity
}

/**
 * Lays down a row of a box, with `edges` (i32) as closeBorder leaves them; `x` and `y` are its first texel's, `first` what that is called
 * among `entries` (u32). Gives how many texels have a place: one of `reads` each, with the turn of the nearest rigid motion (polar
 * decomposition in the plane), mirrored first where the map mirrors. Without a place of its own one has the nearest of `island`, or none
 * where that is −1.
 */
export function layRow(
  edges: usize,
  count: i32,
  x: i32,
  y: i32,
  island: i32,
  first: i32,
  entries: usize,
  reads: usize,
  fraction: i32,
): i32 {
  let done: usize = 0
  for (let i = 0; i < count; i++) {
    const edge = load<i32>(edges + ((<usize>i) << 2))
    if (edge < 0) continue
    const toX = <f64>(x + i) + 0.5
    const toY = <f64>y + 0.5
    walk(edge, toX, toY)
    const isThere = (isFound || island >= 0) && isReadable(load<i32>(islands + ((<usize>endTriangle) << 2)), endX, endY)
    if (!isThere && !isReadable(island, toX, toY)) continue
    store<i32>(entries + (done << 2), first + i)
    packTurned(reads + done * READ_BYTES, fraction, <f64>readX, <f64>readY, a, b, c, d)
    done++
  }
  return <i32>done
}
