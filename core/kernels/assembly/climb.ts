import { NODE } from './bvh'
import { raysOf } from './fan'
import { mx, my, mz, normalThere, setMesh } from './met-normal'
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

let raysAt: usize = 0

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
  setMesh(faces, normals)
  raysAt = raysOf(stack)
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
      trace(nodes, blocks, stack, nodes, nodes + NODE, raysAt, going, false)
      going = stepped(going, here, <f32>(s - 1) * step, step, level, found)
      if (!going) break
      trace(nodes, blocks, stack, nodes, nodes + NODE, raysAt, going, false)
      going = landed(going, here, s, step, level, found)
    }
  }
}

/**
 * Ends those that something stands out over; sets the rays of the others to the way back, from a step farther and off the surface. Those
 * others. `far` is how far all have come.
 */
function stepped(going: u32, here: usize, far: f32, step: f32, level: f32, found: usize): u32 {
  for (let rest = going; rest; rest &= rest - 1) {
    const k = <usize>ctz(rest)
    const ray = raysAt + k * RAY
    if (hasMet(ray)) {
      normalThere(ray)
      if (my < level) {
        store<f32>(found + (k << 2), far + metAt(ray))
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
  return going
}

/** Puts those that have come back onto the surface where they met it, and ends those that did not: it is gone. The former. `steps` is the number of this one. */
function landed(going: u32, here: usize, steps: i32, step: f32, level: f32, found: usize): u32 {
  for (let rest = going; rest; rest &= rest - 1) {
    const k = <usize>ctz(rest)
    const ray = raysAt + k * RAY
    if (!hasMet(ray)) {
      store<f32>(found + (k << 2), (<f32>steps - <f32>0.5) * step)
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
    if (my > level) store<f32>(found + (k << 2), <f32>steps * step)
  }
  return going
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
