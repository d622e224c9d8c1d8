import { fanAt, gather, raysOf } from './fan'
import { mx, my, mz, normalThere, setMesh } from './met-normal'
import { aim, bx, by, bz, nx, ny, nz, ox, oy, oz, tx, ty, tz } from './sample-frame'
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
  setMesh(faces, normals)
  const roots = fanAt(stack)
  raysAt = raysOf(stack)
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
