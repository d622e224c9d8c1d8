import { NODE } from './bvh'
import { gather } from './fan'
import { blocked, hitFace, hitT, hitU, hitV, nearest, STACK } from './trace'

/*
 * What rays about samples tell: how open they are, how thick the model is below them, how it bends around them, where water comes from,
 * and how much of the sky they see.
 */

/** So many rays share a fan, if they are those of so many samples at most. */
const SHARING_RAYS: i32 = 64
const MAX_SHARING: i32 = 16
/** Samples that share one where rays go all around them. */
const SHARING_AROUND: i32 = 4

/** The nodes that rays begin at, for how many samples they are, and the least that directions go along the axis. */
let roots: usize = 0
let end: usize = 0
let sharing: i32 = 1
let flattest: f32 = 0

/** Prepares fans of directions; they lie behind the stack. */
function share(stack: usize, directions: usize, rays: i32, groups: i32): void {
  roots = stack + STACK
  sharing = min(MAX_SHARING, max(1, SHARING_RAYS / rays))
  let z: f32 = 1
  for (let i: i32 = 0; i < rays * groups; i++) z = min(z, load<f32>(directions + <usize>i * 12 + 8))
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
  share(stack, directions, rays, groups)
  for (let i: i32 = 0; i < count; i++) {
    if (i % sharing == 0) {
      const together = min(sharing, count - i)
      end = gather(nodes, blocks, stack, roots, samples + <usize>i * 24, together, 1, flattest, bias, most)
    }
    const number: u32 = first + i
    aim(samples + <usize>i * 24, 1, bias, number, turns, turnMask)
    const own = directions + <usize>(number % groups) * <usize>rays * 12
    let open: f32 = 0
    let sky: f32 = 0
    let sx: f32 = 0
    let sy: f32 = 0
    let sz: f32 = 0
    for (let k: i32 = 0; k < rays; k++) {
      turnTo(own + <usize>k * 12)
      // With a fade what is far hides less: the nearest has to be known.
      const isOpen =
        fade > 0
          ? !nearest(nodes, blocks, stack, roots, end, ox, oy, oz, dx, dy, dz, most)
          : !blocked(nodes, blocks, stack, roots, end, ox, oy, oz, dx, dy, dz, most)
      const share: f32 = isOpen ? 1 : fade > 0 ? fadeOf(hitT / most, fade) : 0
      open += share
      if (isOpen && dy > 0) sky += 1
      sx += dx * share
      sy += dy * share
      sz += dz * share
    }
    const to = out + <usize>i * 20
    store<f32>(to, open / <f32>rays)
    store<f32>(to + 4, sx)
    store<f32>(to + 8, sy)
    store<f32>(to + 12, sz)
    store<f32>(to + 16, sky / <f32>rays)
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
  share(stack, directions, rays, groups)
  for (let i: i32 = 0; i < count; i++) {
    if (i % sharing == 0) {
      const together = min(sharing, count - i)
      end = gather(nodes, blocks, stack, roots, samples + <usize>i * 24, together, -1, flattest, bias, most)
    }
    const number: u32 = first + i
    aim(samples + <usize>i * 24, -1, bias, number, turns, turnMask)
    const own = directions + <usize>(number % groups) * <usize>rays * 12
    let sum: f32 = 0
    for (let k: i32 = 0; k < rays; k++) {
      turnTo(own + <usize>k * 12)
      sum += nearest(nodes, blocks, stack, roots, end, ox, oy, oz, dx, dy, dz, most) ? hitT + bias : most
    }
    store<f32>(out + ((<usize>i) << 2), sum / <f32>rays)
  }
}

/** Triangles (three vertices each) and normals (three a vertex) of the mesh that is traced, for normals where rays meet it. */
let facesAt: usize = 0
let normalsAt: usize = 0
/** The normal at hand, of length 1. */
let mx: f32 = 0
let my: f32 = 0
let mz: f32 = 0

/** Sets the normal to that of the mesh where the last ray has met it. */
function normalThere(): void {
  const face = facesAt + <usize>hitFace * 12
  const a = normalsAt + <usize>load<u32>(face) * 12
  const b = normalsAt + <usize>load<u32>(face + 4) * 12
  const c = normalsAt + <usize>load<u32>(face + 8) * 12
  const w = <f32>1 - hitU - hitV
  mx = load<f32>(a) * w + load<f32>(b) * hitU + load<f32>(c) * hitV
  my = load<f32>(a + 4) * w + load<f32>(b + 4) * hitU + load<f32>(c + 4) * hitV
  mz = load<f32>(a + 8) * w + load<f32>(b + 8) * hitU + load<f32>(c + 8) * hitV
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
  roots = stack + STACK
  for (let i: i32 = 0; i < count; i++) {
    const at = samples + <usize>i * 24
    if (i % SHARING_AROUND == 0)
      end = gather(nodes, blocks, stack, roots, at, min(SHARING_AROUND, count - i), 0, 0, 0, radius * reach)
    aim(at, 1, 0, 0, turns, 0)
    let bend: f32 = 0
    let met: f32 = 0
    let sx = nx
    let sy = ny
    let sz = nz
    for (let k: i32 = 0; k < rays; k++) {
      const ray = table + <usize>k * 28
      const px = load<f32>(ray) * radius
      const py = load<f32>(ray + 4) * radius
      const pz = load<f32>(ray + 8) * radius
      const rx = ox + px * tx + py * bx + pz * nx
      const ry = oy + px * ty + py * by + pz * ny
      const rz = oz + px * tz + py * bz + pz * nz
      const ux = load<f32>(ray + 12)
      const uy = load<f32>(ray + 16)
      const uz = load<f32>(ray + 20)
      dx = ux * tx + uy * bx + uz * nx
      dy = ux * ty + uy * by + uz * ny
      dz = ux * tz + uy * bz + uz * nz
      if (!nearest(nodes, blocks, stack, roots, end, rx, ry, rz, dx, dy, dz, load<f32>(ray + 24) * radius)) continue
      normalThere()
      if (mx * dx + my * dy + mz * dz >= 0) continue
      const qx = rx + dx * hitT - ox
      const qy = ry + dy * hitT - oy
      const qz = rz + dz * hitT - oz
      const square = qx * qx + qy * qy + qz * qz
      if (square > 0) bend += ((mx - nx) * qx + (my - ny) * qy + (mz - nz) * qz) / square
      sx += mx
      sy += my
      sz += mz
      met += 1
    }
    const to = out + ((<usize>i) << 4)
    store<f32>(to, met > 0 ? bend / met : 0)
    store<f32>(to + 4, sx / (met + 1))
    store<f32>(to + 8, sy / (met + 1))
    store<f32>(to + 12, sz / (met + 1))
  }
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
  for (let i: i32 = 0; i < count; i++) {
    const at = samples + <usize>i * 24
    let px = load<f32>(at)
    let py = load<f32>(at + 4)
    let pz = load<f32>(at + 8)
    let vx = load<f32>(at + 12)
    let vy = load<f32>(at + 16)
    let vz = load<f32>(at + 20)
    let found: f32 = 0
    for (let s: i32 = 1; s <= steps && vy <= level; s++) {
      // The way up along the surface; straight up where it hangs level.
      const flat = Mathf.sqrt(max<f32>(0, <f32>1 - vy * vy))
      const ux: f32 = flat > 0.001 ? (-vx * vy) / flat : 0
      const uy: f32 = flat > 0.001 ? (<f32>1 - vy * vy) / flat : 1
      const uz: f32 = flat > 0.001 ? (-vz * vy) / flat : 0
      if (
        nearest(
          nodes,
          blocks,
          stack,
          nodes,
          nodes + NODE,
          px + vx * bias,
          py + vy * bias,
          pz + vz * bias,
          ux,
          uy,
          uz,
          step,
        )
      ) {
        normalThere()
        if (my < level) {
          found = <f32>(s - 1) * step + hitT
          break
        }
      }
      const qx = px + (ux + vx) * step
      const qy = py + (uy + vy) * step
      const qz = pz + (uz + vz) * step
      if (!nearest(nodes, blocks, stack, nodes, nodes + NODE, qx, qy, qz, -vx, -vy, -vz, step * 2)) {
        found = (<f32>s - <f32>0.5) * step
        break
      }
      px = qx - vx * hitT
      py = qy - vy * hitT
      pz = qz - vz * hitT
      normalThere()
      vx = mx
      vy = my
      vz = mz
      if (vy > level) found = <f32>s * step
    }
    store<f32>(out + ((<usize>i) << 2), found)
  }
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
  share(stack, directions, rays, groups)
  for (let i: i32 = 0; i < count; i++) {
    if (i % sharing == 0) {
      const together = min(sharing, count - i)
      end = gather(nodes, blocks, stack, roots, samples + <usize>i * 24, together, 1, flattest, bias, most)
    }
    const number: u32 = first + i
    aim(samples + <usize>i * 24, 1, bias, number, turns, turnMask)
    const own = directions + <usize>(number % groups) * <usize>rays * 12
    let open: f32 = 0
    for (let k: i32 = 0; k < rays; k++) {
      turnTo(own + <usize>k * 12)
      if (dy > 0 && !blocked(nodes, blocks, stack, roots, end, ox, oy, oz, dx, dy, dz, most)) open += 1
    }
    store<f32>(out + ((<usize>i) << 2), open / <f32>rays)
  }
}
