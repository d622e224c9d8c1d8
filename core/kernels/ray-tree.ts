import { GristError } from '../errors'
import type { Allocate } from '../field/field'
import { plainMemory } from '../field/field'
import { cosTurns, sinTurns } from '../elementary'
import type { Simd } from './simd'
import { simd } from './simd'

/*
 * Rays through triangles. There is one definition, core/kernels/assembly/bvh.ts: WebAssembly gives the same bits everywhere, and a tree
 * in plain TypeScript would take minutes for what it takes seconds for.
 */

/** A bounding-volume tree over triangles; its bytes lie where `allocate` put them. */
export interface RayTree {
  readonly nodes: Uint8Array
  readonly blocks: Uint8Array
  readonly nodeCount: number
  readonly blockCount: number
}

const NODE_BYTES = 128
const BLOCK_BYTES = 160
/** Memory that a build needs beside 52 bytes a triangle, and that a ray needs. */
const BUILD_BYTES = 65536
const STACK_BYTES = 16384
/** Rays that are handed over in one go. */
const BATCH = 4096

function rays(): Simd {
  const twin = simd()
  if (!twin)
    throw new GristError(
      'memory-budget',
      'Mesh data is baked by WebAssembly with SIMD and shared memory, which is not there.',
    )
  return twin
}

/**
 * Builds a tree. Shape: positions three a vertex, triangles three vertices each; at least one triangle.
 * `allocate` gives memory that other threads see too where they are to trace.
 */
export function buildRayTree(
  positions: Float32Array,
  triangles: Uint32Array,
  allocate: Allocate = plainMemory,
): RayTree {
  const twin = rays()
  const count = triangles.length / 3
  return twin.scratch(() => {
    const at = twin.allOf(positions)
    const faces = twin.take(triangles.length)
    twin.ints(faces, triangles.length).set(triangles)
    const scratch = twin.take(count * 13 + 4 + BUILD_BYTES / 4)
    const nodes = twin.take((count + 1) * (NODE_BYTES / 4))
    const blocks = twin.take((count + 1) * (BLOCK_BYTES / 4))
    const nodeCount = twin.assembly.buildTree(at, faces, count, scratch, nodes, blocks)
    const blockCount = twin.ints(scratch, 1)[0]!
    const kept = (from: number, bytes: number): Uint8Array => {
      const own = allocate(bytes)
      own.set(twin.bytes(from, bytes))
      return own
    }
    return {
      nodes: kept(nodes, nodeCount * NODE_BYTES),
      blocks: kept(blocks, blockCount * BLOCK_BYTES),
      nodeCount,
      blockCount,
    }
  })
}

/** Where a tree lies for the kernels: in place, or as a copy in scratch memory. */
function placed(twin: Simd, { nodes, blocks }: RayTree): { nodes: number; blocks: number; stack: number } {
  const at = (bytes: Uint8Array): number => {
    const here = twin.shared.offsetOf(bytes)
    if (here >= 0) return here
    const room = twin.take(bytes.length / 4)
    twin.bytes(room, bytes.length).set(bytes)
    return room
  }
  return { nodes: at(nodes), blocks: at(blocks), stack: twin.take(STACK_BYTES / 4) }
}

/** Calls `work` for rays, a batch at a time; `each` numbers come out for one. */
function inBatches(
  tree: RayTree,
  given: Float32Array,
  each: number,
  work: (twin: Simd, at: ReturnType<typeof placed>, rays: number, count: number, out: number) => void,
): Float32Array {
  const twin = rays()
  const count = given.length / 7
  const result = new Float32Array(count * each)
  twin.scratch(() => {
    const at = placed(twin, tree)
    const room = twin.take(BATCH * 7)
    const out = twin.take(BATCH * each)
    for (let from = 0; from < count; from += BATCH) {
      const some = Math.min(BATCH, count - from)
      twin.floats(room, some * 7).set(given.subarray(from * 7, (from + some) * 7))
      work(twin, at, room, some, out)
      result.set(twin.floats(out, some * each), from * each)
    }
  })
  return result
}

/** Whether each ray meets anything: 1 or 0. Shape: rays as origin, direction (of any length), and how far in lengths of it. */
export const anyHits = (tree: RayTree, given: Float32Array): Float32Array =>
  inBatches(tree, given, 1, (twin, { nodes, blocks, stack }, at, count, out) =>
    twin.assembly.anyHits(nodes, blocks, stack, at, count, out),
  )

/** The nearest thing that each ray meets. */
export interface ClosestHits {
  /** In lengths of the direction; −1 where there is nothing. */
  readonly distances: Float32Array
  readonly triangles: Uint32Array
  /** Weights of the triangle's second and third corner, two a ray. */
  readonly weights: Float32Array
}

export function closestHits(tree: RayTree, given: Float32Array): ClosestHits {
  const found = inBatches(tree, given, 4, (twin, { nodes, blocks, stack }, at, count, out) =>
    twin.assembly.closestHits(nodes, blocks, stack, at, count, out),
  )
  const words = new Uint32Array(found.buffer)
  const count = given.length / 7
  const distances = new Float32Array(count)
  const triangles = new Uint32Array(count)
  const weights = new Float32Array(count * 2)
  for (let i = 0; i < count; i++) {
    distances[i] = found[i * 4]!
    triangles[i] = words[i * 4 + 1]!
    weights[i * 2] = found[i * 4 + 2]!
    weights[i * 2 + 1] = found[i * 4 + 3]!
  }
  return { distances, triangles, weights }
}

/** Angles that the directions of a sample are turned by, as cosine and sine. */
const TURNS = 1024
let turnTable: Float32Array | null = null
const turns = (): Float32Array =>
  (turnTable ??= Float32Array.from({ length: TURNS * 2 }, (_, i) =>
    i % 2 === 0 ? cosTurns(i / 2 / TURNS) : sinTurns((i - 1) / 2 / TURNS),
  ))

/**
 * Directions about +Z, three numbers each, spread evenly over a cone of `spreadTurns` (half its opening; a quarter turn is the
 * hemisphere), more of them the nearer to the axis as the cosine asks.
 * Source: points are R₂ of M. Roberts, "The unreasonable effectiveness of quasirandom sequences", 2018; on the disc as
 * P. Shirley, K. Chiu, "A low distortion map between disk and square", 1997 asks for projected solid angle (Malley's method).
 */
export function coneDirections(count: number, spreadTurns = 0.25): Float32Array {
  const directions = new Float32Array(count * 3)
  const widest = sinTurns(Math.min(0.25, spreadTurns)) ** 2
  for (let k = 0; k < count; k++) {
    const u = (0.5 + k * 0.7548776662466927) % 1
    const v = (0.5 + k * 0.5698402909980532) % 1
    const r = Math.sqrt(u * widest)
    directions[k * 3] = r * cosTurns(v)
    directions[k * 3 + 1] = r * sinTurns(v)
    directions[k * 3 + 2] = Math.sqrt(1 - u * widest)
  }
  return directions
}

/** How rays of samples go. */
export interface RayFan {
  readonly directions: Float32Array
  /** In how many groups the directions are shared among samples: each takes those of the group of its number. */
  readonly groups: number
  /** Metres off the surface where they begin, and how far they go. */
  readonly bias: number
  readonly most: number
}

/** A fan of so many rays a texel, shared among its samples; each has one at least. */
export const sharedFan = (
  rays: number,
  samples: number,
  spreadTurns?: number,
): Pick<RayFan, 'directions' | 'groups'> => ({
  directions: coneDirections(Math.ceil(rays / samples) * samples, spreadTurns),
  groups: samples,
})

/** Samples of which so many are done before anything else is looked at. */
const SAMPLES = 1024

/** What the kernels of samples are told: where things lie, and how the rays of a run of samples go. */
type SampleRun = readonly [
  nodes: number,
  blocks: number,
  stack: number,
  samples: number,
  count: number,
  first: number,
  directions: number,
  rays: number,
  groups: number,
  turns: number,
  turnMask: number,
  bias: number,
  most: number,
]

/** Calls `work` for samples, a run at a time. `firstNumber` is added to their numbers, by which their rays are turned and grouped. */
function forSamples(
  tree: RayTree,
  samples: Float32Array,
  { directions, groups, bias, most }: RayFan,
  each: number,
  firstNumber: number,
  check: () => void,
  work: (twin: Simd, run: SampleRun, out: number) => void,
): Float32Array {
  const twin = rays()
  const count = samples.length / 6
  const result = new Float32Array(count * each)
  const perSample = directions.length / 3 / groups
  twin.scratch(() => {
    const { nodes, blocks, stack } = placed(twin, tree)
    const fan = twin.allOf(directions)
    const angles = twin.allOf(turns())
    const room = twin.take(SAMPLES * 6)
    const out = twin.take(SAMPLES * each)
    for (let first = 0; first < count; first += SAMPLES) {
      check()
      const some = Math.min(SAMPLES, count - first)
      twin.floats(room, some * 6).set(samples.subarray(first * 6, (first + some) * 6))
      const number = firstNumber + first
      work(twin, [nodes, blocks, stack, room, some, number, fan, perSample, groups, angles, TURNS - 1, bias, most], out)
      result.set(twin.floats(out, some * each), first * each)
    }
  })
  return result
}

/**
 * How open samples are, and in which direction: four numbers each, the share of rays that meet nothing and the sum of those.
 * `fade`, a share of the reach, has what is farther than the rest of it hide less and less; 0 is none.
 * Shape: samples as place and normal, six numbers each; `firstNumber` is added to their numbers, by which their rays are turned.
 */
export const opennessOf = (
  tree: RayTree,
  samples: Float32Array,
  fan: RayFan & { readonly fade: number },
  firstNumber = 0,
  check: () => void = () => {},
): Float32Array =>
  forSamples(tree, samples, fan, 4, firstNumber, check, (twin, run, out) =>
    twin.assembly.openness(...run, fan.fade, out),
  )

/** How thick the model is below samples: the mean distance inward over the fan's cone, in metres; what meets nothing counts as `most`. */
export const thicknessOf = (
  tree: RayTree,
  samples: Float32Array,
  fan: RayFan,
  firstNumber = 0,
  check: () => void = () => {},
): Float32Array =>
  forSamples(tree, samples, fan, 1, firstNumber, check, (twin, run, out) => twin.assembly.thickness(...run, out))
