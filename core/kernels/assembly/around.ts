import { fanAt, gather, raysOf } from './fan'
import { mx, my, mz, normalThere, setMesh } from './met-normal'
import { aim, bx, by, bz, nx, ny, nz, ox, oy, oz, turnFrame, tx, ty, tz } from './sample-frame'
import {
  PACKET,
  RAY,
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
} from './trace'

/** Samples that share one where rays go all around them; so many rays of each go together. */
const SHARING_AROUND: i32 = 4
const TOGETHER_AROUND: i32 = PACKET / SHARING_AROUND

let raysAt: usize = 0

/** How many rays cross a disc of the radius along the normal, and along any one way across it. */
let alongNormal: f32 = 0
let alongOthers: f32 = 0

/**
 * Looks around samples: `table` has rays for a radius of 1 in a sample's frame, seven numbers each (origin, direction, how far);
 * `reach` is how far from the sample they come at most. They go along the frame's axes: `down` of them along the normal, `side` along
 * each way across it, spread over a disc of the radius. What a ray meets stands for as much of the surface as that asks for.
 * A sample's frame is turned about its normal by its number, in `groups` steps of a quarter; `quarter` is that in steps of `turns`.
 * With n the normal here, m that at a place q which faces the ray that met it, and d = q − p: the curvature towards it is (m − n)·d / d².
 * `out`: the mean of those over the surface, and the mean normal (not of length 1), four numbers a sample.
 * Source of the weights: A. King, C. Kulla, A. Conty, M. Fajardo, "BSSRDF importance sampling", 2013.
 */
export function lookAround(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  first: u32,
  groups: u32,
  table: usize,
  rays: i32,
  down: f32,
  side: f32,
  radius: f32,
  reach: f32,
  faces: usize,
  normals: usize,
  turns: usize,
  quarter: u32,
  out: usize,
): void {
  setMesh(faces, normals)
  const roots = fanAt(stack)
  raysAt = raysOf(stack)
  alongNormal = down
  alongOthers = side
  // How much of the surface all that rays of a sample have met stands for.
  const weights = raysAt + <usize>PACKET * RAY
  for (let i: i32 = 0; i < count; i += SHARING_AROUND) {
    const together = min(SHARING_AROUND, count - i)
    const own = samples + <usize>i * 24
    const sums = out + ((<usize>i) << 4)
    const end = gather(nodes, blocks, stack, roots, own, together, 0, 0, 0, radius * reach)
    memory.fill(sums, 0, (<usize>together) << 4)
    memory.fill(weights, 0, (<usize>together) << 2)
    for (let k: i32 = 0; k < rays; k += TOGETHER_AROUND) {
      // The same few rays of all samples go together: they lie side by side.
      const some = min(TOGETHER_AROUND, rays - k)
      for (let s: i32 = 0; s < together; s++) {
        frameOf(own + <usize>s * 24, (first + i + s) % groups, groups, turns, quarter)
        for (let j: i32 = 0; j < some; j++) setRayAround(s * some + j, table + <usize>(k + j) * 28, radius)
      }
      trace(nodes, blocks, stack, roots, end, raysAt, firstRays(together * some), false)
      for (let s: i32 = 0; s < together; s++) {
        frameOf(own + <usize>s * 24, (first + i + s) % groups, groups, turns, quarter)
        for (let j: i32 = 0; j < some; j++)
          bendAt(raysAt + <usize>(s * some + j) * RAY, sums + ((<usize>s) << 4), weights + ((<usize>s) << 2))
      }
    }
    for (let s: i32 = 0; s < together; s++) {
      const to = sums + ((<usize>s) << 4)
      const weight = load<f32>(weights + ((<usize>s) << 2))
      if (weight > 0) for (let k: usize = 0; k < 16; k += 4) store<f32>(to + k, load<f32>(to + k) / weight)
      // Where nothing was met it goes on as it is.
      else memory.copy(to + 4, own + <usize>s * 24 + 12, 12)
    }
  }
}

/** Sets the frame of a sample, turned as the group of its number asks. */
function frameOf(sample: usize, group: u32, groups: u32, turns: usize, quarter: u32): void {
  aim(sample, 1, 0, 0, turns, 0)
  const turn = turns + ((<usize>(((2 * group + 1) * quarter) / (2 * groups))) << 3)
  turnFrame(load<f32>(turn), load<f32>(turn + 4))
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

/** Adds the curvature and the normal of where a ray of the sample at hand has met the mesh to that sample's sums. */
function bendAt(ray: usize, sums: usize, weighed: usize): void {
  if (!hasMet(ray)) return
  normalThere(ray)
  const rx = wayX(ray)
  const ry = wayY(ray)
  const rz = wayZ(ray)
  if (mx * rx + my * ry + mz * rz >= 0) return
  const n = abs(mx * nx + my * ny + mz * nz)
  const t = abs(mx * tx + my * ty + mz * tz)
  const b = abs(mx * bx + my * by + mz * bz)
  const weight = <f32>1 / (alongNormal * n + alongOthers * (t + b))
  const far = metAt(ray)
  const qx = originX(ray) + rx * far - ox
  const qy = originY(ray) + ry * far - oy
  const qz = originZ(ray) + rz * far - oz
  const square = qx * qx + qy * qy + qz * qz
  if (square > 0) {
    const bend = (mx - nx) * qx + (my - ny) * qy + (mz - nz) * qz
    store<f32>(sums, load<f32>(sums) + (weight * bend) / square)
  }
  store<f32>(sums, load<f32>(sums, 4) + weight * mx, 4)
  store<f32>(sums, load<f32>(sums, 8) + weight * my, 8)
  store<f32>(sums, load<f32>(sums, 12) + weight * mz, 12)
  store<f32>(weighed, load<f32>(weighed) + weight)
}
