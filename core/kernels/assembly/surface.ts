import { NODE } from './bvh'
import { PACKET, RAY, STACK, faceMet, firstRays, hasMet, metAt, setRay, trace, weightB, weightC } from './trace'

/*
 * Places and normals of samples on a mesh, six numbers each. Sums are made in 64 bits and rounded once, as plain TypeScript makes them.
 */

/** Puts a point between three vertices, three numbers each, at `to`. */
function between(values: usize, p: usize, q: usize, r: usize, a: f64, b: f64, c: f64, to: usize): void {
  p += values
  q += values
  r += values
  const first = f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(p)), f64x2.splat(a))
  const second = f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(q)), f64x2.splat(b))
  const third = f64x2.mul(f64x2.promote_low_f32x4(v128.load64_zero(r)), f64x2.splat(c))
  v128.store64_lane(to, f32x4.demote_f64x2_zero(f64x2.add(f64x2.add(first, second), third)), 0)
  store<f32>(to, <f32>(<f64>load<f32>(p, 8) * a + <f64>load<f32>(q, 8) * b + <f64>load<f32>(r, 8) * c), 8)
}

/** Brings three numbers to length 1; what has none becomes +Y. */
function normalise(at: usize): void {
  const xy = f64x2.promote_low_f32x4(v128.load64_zero(at))
  const z = <f64>load<f32>(at, 8)
  const squares = f64x2.mul(xy, xy)
  const length = Math.sqrt(f64x2.extract_lane(squares, 0) + f64x2.extract_lane(squares, 1) + z * z)
  if (length > 0) {
    v128.store64_lane(at, f32x4.demote_f64x2_zero(f64x2.div(xy, f64x2.splat(length))), 0)
    store<f32>(at, <f32>(z / length), 8)
    return
  }
  store<f32>(at, 0)
  store<f32>(at, 1, 4)
  store<f32>(at, 0, 8)
}

/** Puts the place and the normal of a mesh where sample `i` lies on one of its triangles at `to`. */
function placeAt(
  positions: usize,
  normals: usize,
  faces: usize,
  triangles: usize,
  weights: usize,
  i: usize,
  to: usize,
): void {
  const face = faces + <usize>load<u32>(triangles + (i << 2)) * 12
  const b = <f64>load<f32>(weights + (i << 3))
  const c = <f64>load<f32>(weights + (i << 3) + 4)
  const p = <usize>load<u32>(face) * 12
  const q = <usize>load<u32>(face + 4) * 12
  const r = <usize>load<u32>(face + 8) * 12
  const a = <f64>1 - b - c
  between(positions, p, q, r, a, b, c, to)
  between(normals, p, q, r, a, b, c, to + 12)
  normalise(to + 12)
}

/** Places of samples, told by `triangles` (one number each, from the first at `faces`) and `weights` (two each). */
export function surfacePlaces(
  positions: usize,
  normals: usize,
  faces: usize,
  triangles: usize,
  weights: usize,
  count: i32,
  out: usize,
): void {
  for (let i: usize = 0; i < <usize>count; i++) placeAt(positions, normals, faces, triangles, weights, i, out + i * 24)
}

/**
 * Looks from samples along their normals for another mesh, from `front` outside to `back` inside: how far outside it is met first (NaN:
 * nowhere), in which triangle, and the weights of its second and third corner.
 */
export function hitsAlong(
  nodes: usize,
  blocks: usize,
  stack: usize,
  samples: usize,
  count: i32,
  front: f64,
  back: f64,
  heights: usize,
  triangles: usize,
  weights: usize,
): void {
  const far = <f32>(front + back)
  const from = <f64>(<f32>front)
  const rays = stack + STACK
  for (let first: i32 = 0; first < count; first += PACKET) {
    const some = min(PACKET, count - first)
    for (let k: i32 = 0; k < some; k++) {
      const at = samples + <usize>(first + k) * 24
      const nx = load<f32>(at + 12)
      const ny = load<f32>(at + 16)
      const nz = load<f32>(at + 20)
      setRay(
        rays,
        k,
        <f32>(<f64>load<f32>(at) + <f64>nx * front),
        <f32>(<f64>load<f32>(at + 4) + <f64>ny * front),
        <f32>(<f64>load<f32>(at + 8) + <f64>nz * front),
        -nx,
        -ny,
        -nz,
        far,
      )
    }
    trace(nodes, blocks, stack, nodes, nodes + NODE, rays, firstRays(some), false)
    for (let k: i32 = 0; k < some; k++) {
      const ray = rays + <usize>k * RAY
      const i = <usize>(first + k)
      const hit = hasMet(ray)
      store<f32>(heights + (i << 2), hit ? <f32>(from - <f64>metAt(ray)) : NaN)
      store<u32>(triangles + (i << 2), hit ? faceMet(ray) : 0)
      store<f32>(weights + (i << 3), hit ? weightB(ray) : 0)
      store<f32>(weights + (i << 3) + 4, hit ? weightC(ray) : 0)
    }
  }
}

/** Puts those samples that have met another mesh onto it; the others stay where they are. */
export function placesOnHits(
  positions: usize,
  normals: usize,
  faces: usize,
  heights: usize,
  triangles: usize,
  weights: usize,
  count: i32,
  samples: usize,
): void {
  for (let i: usize = 0; i < <usize>count; i++) {
    const height = load<f32>(heights + (i << 2))
    if (height != height) continue
    placeAt(positions, normals, faces, triangles, weights, i, samples + i * 24)
  }
}
