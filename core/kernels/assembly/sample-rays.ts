import { NODE } from './bvh'
import { FAN, gather } from './fan'
import {
  PACKET,
  RAY,
  STACK,
  faceMet,
  firstRays,
  hasMet,
  metAt,
  originX,
  originY,
  originZ,
  setRay,
  trace,
  wayX,
  wayY,
  wayZ,
  weightB,
  weightC,
} from './trace'

/*
 * What rays about samples tell: how open they are, how thick the model is below them, how it bends around them, where water comes from,
 * and how much of the sky they see.
 */

/** So many rays share a fan, if they are those of so many samples at most. */
const SHARING_RAYS: i32 = 64
const MAX_SHARING: i32 = 16
/** Samples that share one where rays go all around them; so many rays of each go together. */
const SHARING_AROUND: i32 = 4
const TOGETHER_AROUND: i32 = PACKET / SHARING_AROUND

/** Where things lie that samples share: the nodes that their rays begin at, and those rays. */
let roots: usize = 0
let raysAt: usize = 0

function placeShared(stack: usize): void {
  roots = stack + STACK
  raysAt = roots + FAN
}

/** How rays of samples go: which directions, how many of them a sample has, in how many groups, and what turns them (openness). */
let directionsAt: usize = 0
let raysOfSample: i32 = 0
let groupCount: u32 = 0
let turnsAt: usize = 0
let turnMaskOf: u32 = 0
/** Which side of the surface they go to (1 outward, −1 inward), how far off it they begin, and how far they go. */
let sideOf: f32 = 0
let biasOf: f32 = 0
let mostOf: f32 = 0
/** How many samples share a fan, and the least that directions go along the axis. */
let sharing: i32 = 1
let flattest: f32 = 0

/** Sets how rays of samples go. */
function setCone(
  stack: usize,
  directions: usize,
  rays: i32,
  groups: u32,
  turns: usize,
  turnMask: u32,
  side: f32,
  bias: f32,
  most: f32,
): void {
  placeShared(stack)
  directionsAt = directions
  raysOfSample = rays
  groupCount = groups
  turnsAt = turns
  turnMaskOf = turnMask
  sideOf = side
  biasOf = bias
  mostOf = most
  sharing = min(MAX_SHARING, max(1, SHARING_RAYS / rays))
  let z: f32 = 1
  for (let i: i32 = 0; i < rays * <i32>groups; i++) z = min(z, load<f32>(directions + <usize>i * 12 + 8))
  // A little less, for what rounding may do.
  flattest = max<f32>(0, z - <f32>1e-4)
}

/** The frame of the sample at hand: where its rays begin, two directions across its axis, the axis, and the turn of its directions. */
let ox: f32 = 0
let oy: f32 = 0
let oz: f32 = 0
let tx: f32 = 0
let ty: f32 = 0
let tz: f32 = 0
let bx: f32 = 0
let by: f32 = 0
let bz: f32 = 0
let nx: f32 = 0
let ny: f32 = 0
let nz: f32 = 0
let cos: f32 = 0
let sin: f32 = 0
/** The direction at hand. */
let dx: f32 = 0
let dy: f32 = 0
let dz: f32 = 0

/** Sets the frame of a sample: its axis is its normal times `side` (1 outward, −1 inward). */
function aim(at: usize, side: f32, bias: f32, number: u32, turns: usize, turnMask: u32): void {
  nx = side * load<f32>(at + 12)
  ny = side * load<f32>(at + 16)
  nz = side * load<f32>(at + 20)
  // A frame about the normal: T. Duff and others, "Building an orthonormal basis, revisited", 2017.
  const sign: f32 = nz >= 0 ? 1 : -1
  const a = <f32>-1 / (sign + nz)
  bx = nx * ny * a
  by = sign + ny * ny * a
  bz = -ny
  tx = <f32>1 + sign * nx * nx * a
  ty = sign * bx
  tz = -sign * nx
  let hash: u32 = number * 747796405 + 2891336453
  hash = ((hash >> ((hash >> 28) + 4)) ^ hash) * 277803737
  hash = (hash >> 22) ^ hash
  const turn = turns + ((<usize>(hash & turnMask)) << 3)
  cos = load<f32>(turn)
  sin = load<f32>(turn + 4)
  ox = load<f32>(at) + nx * bias
  oy = load<f32>(at + 4) + ny * bias
  oz = load<f32>(at + 8) + nz * bias
}

/** Sets the direction to one of the table, turned and brought into the frame. */
function turnTo(d: usize): void {
  const lx = load<f32>(d) * cos - load<f32>(d + 4) * sin
  const ly = load<f32>(d) * sin + load<f32>(d + 4) * cos
  const lz = load<f32>(d + 8)
  dx = lx * tx + ly * bx + lz * nx
  dy = lx * ty + ly * by + lz * ny
  dz = lx * tz + ly * bz + lz * nz
}

/** The sample whose ray comes next, its number among all, and which of its rays that is. */
let sampleNext: usize = 0
let numberNext: u32 = 0
let rayNext: i32 = 0

/** Sets the next rays of a fan, `left` or a packet; their number. */
function nextRays(left: i32): i32 {
  const count = min(PACKET, left)
  let own: usize = 0
  for (let i: i32 = 0; i < count; i++) {
    if (i == 0 || rayNext == 0) {
      aim(sampleNext, sideOf, biasOf, numberNext, turnsAt, turnMaskOf)
      own = directionsAt + <usize>((numberNext % groupCount) * raysOfSample + rayNext) * 12
    }
    turnTo(own)
    own += 12
    setRay(raysAt, i, ox, oy, oz, dx, dy, dz, mostOf)
    if (++rayNext < raysOfSample) continue
    rayNext = 0
    sampleNext += 24
    numberNext++
  }
  return count
}

/** Begins with the rays of `together` samples: gathers what they can meet; the end of that. */
function beginFan(nodes: usize, blocks: usize, stack: usize, samples: usize, together: i32, number: u32): usize {
  sampleNext = samples
  numberNext = number
  rayNext = 0
  return gather(nodes, blocks, stack, roots, samples, together, sideOf, flattest, biasOf, mostOf)
}

/**
 * How open samples are: of `rays` directions about each sample's normal, the share that meets nothing, and the sum of those that do not.
 * `samples`: place and normal, six numbers each. `directions`: x, y, z each about +Z, `groups` times as many as there are rays: a sample
 * takes the group of its number. `turns`: cosine and sine of angles, `turnMask` + 1 of them; each sample's directions are turned by the
 * one that its number, hashed, picks.
 * `out`: openness, the bent direction (not of length 1), and the share that goes up and meets nothing, five numbers a sample.
 */
export function openness(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  first: i32,
  directions: usize,
  rays: i32,
  groups: u32,
  turns: usize,
  turnMask: u32,
  bias: f32,
  most: f32,
  fade: f32,
  out: usize,
): void {
  setCone(stack, directions, rays, groups, turns, turnMask, 1, bias, most)
  for (let i: i32 = 0; i < count; i += sharing) {
    const together = min(sharing, count - i)
    const end = beginFan(nodes, blocks, stack, samples + <usize>i * 24, together, first + i)
    let to = out + <usize>i * 20
    let done: i32 = 0
    let open: f32 = 0
    let sky: f32 = 0
    let sx: f32 = 0
    let sy: f32 = 0
    let sz: f32 = 0
    for (let left = together * rays; left > 0; left -= PACKET) {
      const some = nextRays(left)
      // With a fade what is far hides less: the nearest has to be known.
      trace(nodes, blocks, stack, roots, end, raysAt, firstRays(some), fade <= 0)
      for (let ray = raysAt, last = raysAt + <usize>some * RAY; ray < last; ray += RAY) {
        const isOpen = !hasMet(ray)
        const share: f32 = isOpen ? 1 : fade > 0 ? fadeOf(metAt(ray) / most, fade) : 0
        open += share
        if (isOpen && wayY(ray) > 0) sky += 1
        sx += wayX(ray) * share
        sy += wayY(ray) * share
        sz += wayZ(ray) * share
        if (++done < rays) continue
        store<f32>(to, open / <f32>rays)
        store<f32>(to, sx, 4)
        store<f32>(to, sy, 8)
        store<f32>(to, sz, 12)
        store<f32>(to, sky / <f32>rays, 16)
        done = 0
        open = sky = sx = sy = sz = 0
        to += 20
      }
    }
  }
}

/** How little something at a share of the way hides: nothing of it at once, all of it from 1 − fade on. */
function fadeOf(share: f32, fade: f32): f32 {
  const from = <f32>1 - fade
  return share <= from ? 0 : (share - from) / fade
}

/**
 * Mean distance inward over a cone: `directions` about +Z, turned to look against each sample's normal; what meets nothing counts as
 * `most`. `out`: one number a sample.
 */
export function thickness(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  first: i32,
  directions: usize,
  rays: i32,
  groups: u32,
  turns: usize,
  turnMask: u32,
  bias: f32,
  most: f32,
  out: usize,
): void {
  setCone(stack, directions, rays, groups, turns, turnMask, -1, bias, most)
  for (let i: i32 = 0; i < count; i += sharing) {
    const together = min(sharing, count - i)
    const end = beginFan(nodes, blocks, stack, samples + <usize>i * 24, together, first + i)
    let to = out + ((<usize>i) << 2)
    let sum: f32 = 0
    let done: i32 = 0
    for (let left = together * rays; left > 0; left -= PACKET) {
      const some = nextRays(left)
      trace(nodes, blocks, stack, roots, end, raysAt, firstRays(some), false)
      for (let ray = raysAt, last = raysAt + <usize>some * RAY; ray < last; ray += RAY) {
        sum += hasMet(ray) ? metAt(ray) + bias : most
        if (++done < rays) continue
        store<f32>(to, sum / <f32>rays)
        done = 0
        sum = 0
        to += 4
      }
    }
  }
}

/** Triangles (three vertices each) and normals (three a vertex) of the mesh that is traced, for normals where rays meet it. */
let facesAt: usize = 0
let normalsAt: usize = 0
/** The normal at hand, of length 1. */
let mx: f32 = 0
let my: f32 = 0
let mz: f32 = 0

/** Sets the normal to that of the mesh where a ray has met it. */
function normalThere(ray: usize): void {
  const face = facesAt + <usize>faceMet(ray) * 12
  const a = normalsAt + <usize>load<u32>(face) * 12
  const b = normalsAt + <usize>load<u32>(face + 4) * 12
  const c = normalsAt + <usize>load<u32>(face + 8) * 12
  const u = weightB(ray)
  const v = weightC(ray)
  const w = <f32>1 - u - v
  mx = load<f32>(a) * w + load<f32>(b) * u + load<f32>(c) * v
  my = load<f32>(a + 4) * w + load<f32>(b + 4) * u + load<f32>(c + 4) * v
  mz = load<f32>(a + 8) * w + load<f32>(b + 8) * u + load<f32>(c + 8) * v
  const length = Mathf.sqrt(mx * mx + my * my + mz * mz)
  mx = length > 0 ? mx / length : 0
  my = length > 0 ? my / length : 1
  mz = length > 0 ? mz / length : 0
}

/**
 * Looks around samples: `table` has rays for a radius of 1 in a sample's frame, seven numbers each (origin, direction, how far);
 * `reach` is how far from the sample they come at most.
 * With n the normal here, m that at a place q which faces the ray that met it, and d = q − p: the curvature towards it is (m − n)·d / d².
 * `out`: the mean of those, and the mean normal (not of length 1), four numbers a sample.
 */
export function lookAround(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  table: usize,
  rays: i32,
  radius: f32,
  reach: f32,
  faces: usize,
  normals: usize,
  turns: usize,
  out: usize,
): void {
  facesAt = faces
  normalsAt = normals
  placeShared(stack)
  // How many rays of a sample have met something that counts.
  const counts = raysAt + <usize>PACKET * RAY
  for (let i: i32 = 0; i < count; i += SHARING_AROUND) {
    const together = min(SHARING_AROUND, count - i)
    const own = samples + <usize>i * 24
    const sums = out + ((<usize>i) << 4)
    const end = gather(nodes, blocks, stack, roots, own, together, 0, 0, 0, radius * reach)
    for (let s: i32 = 0; s < together; s++) {
      const to = sums + ((<usize>s) << 4)
      store<f32>(to, 0)
      memory.copy(to + 4, own + <usize>s * 24 + 12, 12)
      store<f32>(counts + ((<usize>s) << 2), 0)
    }
    for (let k: i32 = 0; k < rays; k += TOGETHER_AROUND) {
      // The same few rays of all samples go together: they lie side by side.
      const some = min(TOGETHER_AROUND, rays - k)
      for (let s: i32 = 0; s < together; s++) {
        aim(own + <usize>s * 24, 1, 0, 0, turns, 0)
        for (let j: i32 = 0; j < some; j++) setRayAround(s * some + j, table + <usize>(k + j) * 28, radius)
      }
      trace(nodes, blocks, stack, roots, end, raysAt, firstRays(together * some), false)
      for (let s: i32 = 0; s < together; s++)
        for (let j: i32 = 0; j < some; j++)
          bendAt(
            raysAt + <usize>(s * some + j) * RAY,
            own + <usize>s * 24,
            sums + ((<usize>s) << 4),
            counts + ((<usize>s) << 2),
          )
    }
    for (let s: i32 = 0; s < together; s++) {
      const to = sums + ((<usize>s) << 4)
      const met = load<f32>(counts + ((<usize>s) << 2))
      store<f32>(to, met > 0 ? load<f32>(to) / met : 0)
      for (let k: usize = 4; k < 16; k += 4) store<f32>(to + k, load<f32>(to + k) / (met + 1))
    }
  }
}

/** Sets a ray to one of a table for the sample at hand. */
function setRayAround(number: i32, row: usize, radius: f32): void {
  const px = load<f32>(row) * radius
  const py = load<f32>(row + 4) * radius
  const pz = load<f32>(row + 8) * radius
  const ux = load<f32>(row + 12)
  const uy = load<f32>(row + 16)
  const uz = load<f32>(row + 20)
  setRay(
    raysAt,
    number,
    ox + px * tx + py * bx + pz * nx,
    oy + px * ty + py * by + pz * ny,
    oz + px * tz + py * bz + pz * nz,
    ux * tx + uy * bx + uz * nx,
    ux * ty + uy * by + uz * ny,
    ux * tz + uy * bz + uz * nz,
    load<f32>(row + 24) * radius,
  )
}

/** Adds the curvature and the normal of where a ray of a sample has met the mesh to that sample's sums, and counts it. */
function bendAt(ray: usize, sample: usize, sums: usize, counted: usize): void {
  if (!hasMet(ray)) return
  normalThere(ray)
  const rx = wayX(ray)
  const ry = wayY(ray)
  const rz = wayZ(ray)
  if (mx * rx + my * ry + mz * rz >= 0) return
  const t = metAt(ray)
  const qx = originX(ray) + rx * t - load<f32>(sample)
  const qy = originY(ray) + ry * t - load<f32>(sample + 4)
  const qz = originZ(ray) + rz * t - load<f32>(sample + 8)
  const square = qx * qx + qy * qy + qz * qz
  if (square > 0) {
    const x = mx - load<f32>(sample + 12)
    const y = my - load<f32>(sample + 16)
    const z = mz - load<f32>(sample + 20)
    store<f32>(sums, load<f32>(sums) + (x * qx + y * qy + z * qz) / square)
  }
  store<f32>(sums, load<f32>(sums, 4) + mx, 4)
  store<f32>(sums, load<f32>(sums, 8) + my, 8)
  store<f32>(sums, load<f32>(sums, 12) + mz, 12)
  store<f32>(counted, load<f32>(counted) + 1)
}

/**
 * Follows samples up the surface, a step along it and back onto it, until something stands out over it, it becomes level (its normal's y
 * is above `level`), or it is gone. `out`: how far up that is, one number a sample; 0 where the length ends first, or it is level at once.
 */
export function climb(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  steps: i32,
  step: f32,
  bias: f32,
  level: f32,
  faces: usize,
  normals: usize,
  out: usize,
): void {
  facesAt = faces
  normalsAt = normals
  placeShared(stack)
  const end = nodes + NODE
  for (let i: i32 = 0; i < count; i += PACKET) {
    const some = min(PACKET, count - i)
    const found = out + ((<usize>i) << 2)
    // Where each is: place and normal, as samples have them.
    const here = raysAt + <usize>PACKET * RAY
    memory.copy(here, samples + <usize>i * 24, <usize>some * 24)
    memory.fill(found, 0, (<usize>some) << 2)
    let going = firstRays(some)
    for (let s: i32 = 1; s <= steps; s++) {
      for (let rest = going; rest; rest &= rest - 1)
        if (!setRayUp(<i32>ctz(rest), here + <usize>ctz(rest) * 24, bias, level, step)) going &= ~(rest & -rest)
      if (!going) break
      trace(nodes, blocks, stack, nodes, end, raysAt, going, false)
      for (let rest = going; rest; rest &= rest - 1) {
        const k = <usize>ctz(rest)
        const ray = raysAt + k * RAY
        if (hasMet(ray)) {
          normalThere(ray)
          if (my < level) {
            store<f32>(found + (k << 2), <f32>(s - 1) * step + metAt(ray))
            going &= ~(rest & -rest)
            continue
          }
        }
        const at = here + k * 24
        const vx = load<f32>(at + 12)
        const vy = load<f32>(at + 16)
        const vz = load<f32>(at + 20)
        const qx = load<f32>(at) + (wayX(ray) + vx) * step
        const qy = load<f32>(at + 4) + (wayY(ray) + vy) * step
        const qz = load<f32>(at + 8) + (wayZ(ray) + vz) * step
        setRay(raysAt, <i32>k, qx, qy, qz, -vx, -vy, -vz, step * 2)
      }
      if (!going) break
      trace(nodes, blocks, stack, nodes, end, raysAt, going, false)
      for (let rest = going; rest; rest &= rest - 1) {
        const k = <usize>ctz(rest)
        const ray = raysAt + k * RAY
        if (!hasMet(ray)) {
          store<f32>(found + (k << 2), (<f32>s - <f32>0.5) * step)
          going &= ~(rest & -rest)
          continue
        }
        const at = here + k * 24
        const t = metAt(ray)
        store<f32>(at, originX(ray) - load<f32>(at + 12) * t)
        store<f32>(at + 4, originY(ray) - load<f32>(at + 16) * t)
        store<f32>(at + 8, originZ(ray) - load<f32>(at + 20) * t)
        normalThere(ray)
        store<f32>(at + 12, mx)
        store<f32>(at + 16, my)
        store<f32>(at + 20, mz)
        if (my > level) store<f32>(found + (k << 2), <f32>s * step)
      }
    }
  }
}

/** Sets a ray to the way up along the surface from a place and normal; not where that is level. */
function setRayUp(number: i32, at: usize, bias: f32, level: f32, step: f32): bool {
  const vx = load<f32>(at + 12)
  const vy = load<f32>(at + 16)
  const vz = load<f32>(at + 20)
  if (!(vy <= level)) return false
  // Straight up where it hangs level.
  const flat = Mathf.sqrt(max<f32>(0, <f32>1 - vy * vy))
  const ux: f32 = flat > 0.001 ? (-vx * vy) / flat : 0
  const uy: f32 = flat > 0.001 ? (<f32>1 - vy * vy) / flat : 1
  const uz: f32 = flat > 0.001 ? (-vz * vy) / flat : 0
  const x = load<f32>(at) + vx * bias
  const y = load<f32>(at + 4) + vy * bias
  const z = load<f32>(at + 8) + vz * bias
  setRay(raysAt, number, x, y, z, ux, uy, uz, step)
  return true
}

/** The share of `rays` directions about each sample's normal that go up and meet nothing; as openness in all else. */
export function skylight(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  first: i32,
  directions: usize,
  rays: i32,
  groups: u32,
  turns: usize,
  turnMask: u32,
  bias: f32,
  most: f32,
  out: usize,
): void {
  setCone(stack, directions, rays, groups, turns, turnMask, 1, bias, most)
  for (let i: i32 = 0; i < count; i += sharing) {
    const together = min(sharing, count - i)
    const end = beginFan(nodes, blocks, stack, samples + <usize>i * 24, together, first + i)
    let to = out + ((<usize>i) << 2)
    let open: f32 = 0
    let done: i32 = 0
    for (let left = together * rays; left > 0; left -= PACKET) {
      const some = nextRays(left)
      let up: u32 = 0
      for (let k: i32 = 0; k < some; k++) up |= (<u32>(wayY(raysAt + <usize>k * RAY) > 0)) << (<u32>k)
      if (up) trace(nodes, blocks, stack, roots, end, raysAt, up, true)
      for (let k: i32 = 0; k < some; k++) {
        if ((up >> (<u32>k)) & 1 && !hasMet(raysAt + <usize>k * RAY)) open += 1
        if (++done < rays) continue
        store<f32>(to, open / <f32>rays)
        done = 0
        open = 0
        to += 4
      }
    }
  }
}
