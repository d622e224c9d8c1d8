import type { Allocate } from '../field/field'
import { plainMemory } from '../field/field'
import { cosTurns, sinTurns } from '../elementary'
import type { Simd } from './simd'
import type { Room } from './baking-room'
import { bakingSimd, ownRoom, roomFor, wordsAt, wordsIn } from './baking-room'

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
/** Memory that a build needs beside 32 bytes a triangle, and that rays need: a stack, what those from one place share, and rays themselves. */
const BUILD_BYTES = 131072
const RAY_BYTES = 32768
/** Rays that are handed over in one go. */
const BATCH = 4096

/**
 * Builds a tree. Shape: positions three a vertex, triangles three vertices each; at least one triangle.
 * `allocate` gives memory that other threads see too where they are to trace.
 */
export function buildRayTree(
  positions: Float32Array,
  triangles: Uint32Array,
  allocate: Allocate = plainMemory,
): RayTree {
  const twin = bakingSimd()
  const count = triangles.length / 3
  return twin.scratch(() => {
    const at = twin.allOf(positions)
    const faces = twin.take(triangles.length)
    twin.ints(faces, triangles.length).set(triangles)
    const scratch = twin.take(count * 8 + BUILD_BYTES / 4)
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
  return { nodes: at(nodes), blocks: at(blocks), stack: twin.take(RAY_BYTES / 4) }
}

/** Calls `work` for rays, a batch at a time; `each` numbers come out for one. */
function inBatches(
  tree: RayTree,
  given: Float32Array,
  each: number,
  work: (twin: Simd, at: ReturnType<typeof placed>, rays: number, count: number, out: number) => void,
  check: () => void = () => {},
): Float32Array {
  const twin = bakingSimd()
  const count = given.length / 7
  const result = new Float32Array(count * each)
  twin.scratch(() => {
    const at = placed(twin, tree)
    const room = twin.take(BATCH * 7)
    const out = twin.take(BATCH * each)
    for (let from = 0; from < count; from += BATCH) {
      check()
      const some = Math.min(BATCH, count - from)
      twin.floats(room, some * 7).set(given.subarray(from * 7, (from + some) * 7))
      work(twin, at, room, some, out)
      result.set(twin.floats(out, some * each), from * each)
    }
  })
  return result
}

/**
 * Whether each ray meets anything: 1 or 0. Shape: rays as origin, direction (of any length), and how far in lengths of it. `check` throws
 * where the work was cancelled.
 */
export const anyHits = (tree: RayTree, given: Float32Array, check?: () => void): Float32Array =>
  inBatches(
    tree,
    given,
    1,
    (twin, { nodes, blocks, stack }, at, count, out) => twin.assembly.anyHits(nodes, blocks, stack, at, count, out),
    check,
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

/** Places and normals of samples, six numbers each, and what may end their work. */
export interface RaySamples {
  readonly places: Float32Array
  /** Where results go. */
  readonly room?: Room
  /** Number of the first, by which rays are turned and grouped. */
  readonly firstNumber?: number
  /** Throws where the work was cancelled. */
  readonly check?: () => void
}

/** Calls `work` for samples, a run at a time; `each` numbers come out for one. */
function forSamples(
  tree: RayTree,
  { places, room = ownRoom, firstNumber = 0, check = () => {} }: RaySamples,
  each: number,
  prepare: (
    twin: Simd,
  ) => (run: readonly [number, number, number, number, number], number: number, out: number) => void,
): Float32Array {
  const twin = bakingSimd()
  const count = places.length / 6
  const result = room(count * each)
  twin.scratch(() => {
    const { nodes, blocks, stack } = placed(twin, tree)
    const work = prepare(twin)
    const [from, to] = [twin.allOf(places), roomFor(twin, result)]
    for (let first = 0; first < count; first += SAMPLES) {
      check()
      const some = Math.min(SAMPLES, count - first)
      work([nodes, blocks, stack, from + first * 24, some], firstNumber + first, to.at + first * each * 4)
    }
    to.done()
  })
  return result
}

/** What kernels are told of a fan. */
function placedFan(twin: Simd, { directions, groups, bias, most }: RayFan) {
  const [fan, angles] = [twin.allOf(directions), twin.allOf(turns())]
  return [fan, directions.length / 3 / groups, groups, angles, TURNS - 1, bias, most] as const
}

/**
 * How open samples are, and in which direction: five numbers each, the share of rays that meet nothing, the sum of those, and the share of
 * those that go up (skylightOf).
 * `fade`, a share of the reach, has what is farther than the rest of it hide less and less; 0 is none.
 */
export const opennessOf = (tree: RayTree, samples: RaySamples, fan: RayFan & { readonly fade: number }): Float32Array =>
  forSamples(tree, samples, 5, (twin) => {
    const told = placedFan(twin, fan)
    return (run, number, out) => twin.assembly.openness(...run, number, ...told, fan.fade, out)
  })

/** How thick the model is below samples: the mean distance inward over the fan's cone, in metres; what meets nothing counts as `most`. */
export const thicknessOf = (tree: RayTree, samples: RaySamples, fan: RayFan): Float32Array =>
  forSamples(tree, samples, 1, (twin) => {
    const told = placedFan(twin, fan)
    return (run, number, out) => twin.assembly.thickness(...run, number, ...told, out)
  })

/** The share of the fan's rays that go up and meet nothing: how much of an even sky samples see. */
export const skylightOf = (tree: RayTree, samples: RaySamples, fan: RayFan): Float32Array =>
  forSamples(tree, samples, 1, (twin) => {
    const told = placedFan(twin, fan)
    return (run, number, out) => twin.assembly.skylight(...run, number, ...told, out)
  })

/** The mesh that a tree was built over, as far as normals need it. */
export interface TracedNormals {
  readonly triangles: Uint32Array
  readonly normals: Float32Array
}

const placedNormals = (twin: Simd, { triangles, normals }: TracedNormals) =>
  [wordsAt(twin, triangles), twin.allOf(normals)] as const

/** How far from where they are counted from rays come: the greatest distance of an end. */
function reachOf(table: Float32Array): number {
  let square = 0
  for (let i = 0; i < table.length; i += 7)
    for (const along of [0, table[i + 6]!])
      square = Math.max(
        square,
        [0, 1, 2].reduce((sum, k) => sum + (table[i + k]! + along * table[i + 3 + k]!) ** 2, 0),
      )
  // A little more, for what rounding may do.
  return Math.sqrt(square) * 1.001
}

/** Rays about a sample for a radius of 1, in its frame. */
export interface RaysAround {
  /** Origin, direction along one of the frame's axes, how far: seven numbers each. */
  readonly table: Float32Array
  /** How many of them cross the disc along the normal, and along each way across it. */
  readonly down: number
  readonly side: number
  /** Samples by turns have the frame turned about their normal by so many steps of a quarter. */
  readonly groups: number
}

/**
 * What the surface does around samples, within `radius` metres: four numbers a sample, the mean curvature in 1/m and the mean normal, not
 * of length 1.
 */
export const aroundOf = (
  tree: RayTree,
  mesh: TracedNormals,
  samples: RaySamples,
  { table, down, side, groups, radius }: RaysAround & { readonly radius: number },
): Float32Array =>
  forSamples(tree, samples, 4, (twin) => {
    const [faces, normals] = placedNormals(twin, mesh)
    const [rows, angles] = [twin.allOf(table), twin.allOf(turns())]
    const told = [groups, rows, table.length / 7, down, side, radius, reachOf(table), faces, normals] as const
    return (run, number, out) => twin.assembly.lookAround(...run, number, ...told, angles, TURNS / 4, out)
  })

/** How samples are followed up the surface. */
export interface Climb {
  readonly steps: number
  /** Metres of one. */
  readonly step: number
  readonly bias: number
  /** A surface that faces up by more than this is level. */
  readonly level: number
}

/** How far up the surface a ledge, a level place or a rim is from samples, in metres; 0 where there is none within the steps. */
export const climbOf = (
  tree: RayTree,
  mesh: TracedNormals,
  samples: RaySamples,
  { steps, step, bias, level }: Climb,
): Float32Array =>
  forSamples(tree, samples, 1, (twin) => {
    const [faces, normals] = placedNormals(twin, mesh)
    return (run, _, out) => twin.assembly.climb(...run, steps, step, bias, level, faces, normals, out)
  })

/** A mesh, as far as places on it need it. */
export interface Surface extends TracedNormals {
  readonly positions: Float32Array
}

/** Places on triangles: the triangle of each, counted from `first`, and the weights of its second and third corner. */
export interface OnTriangles {
  readonly triangles: Uint32Array
  readonly weights: Float32Array
}

/** Where samples lie, and the normals there, of length 1: six numbers each. */
export function surfacePlaces(
  { positions, normals, triangles }: Surface,
  first: number,
  on: OnTriangles,
  room: Room = ownRoom,
): Float32Array {
  const twin = bakingSimd()
  const count = on.triangles.length
  const out = room(count * 6)
  twin.scratch(() => {
    const to = roomFor(twin, out)
    twin.assembly.surfacePlaces(
      twin.allOf(positions),
      twin.allOf(normals),
      wordsAt(twin, triangles) + first * 12,
      wordsAt(twin, on.triangles),
      twin.allOf(on.weights),
      count,
      to.at,
    )
    to.done()
  })
  return out
}

/** Where samples meet a mesh along their normals. */
export interface HitsAlong extends OnTriangles {
  /** How far outside of the samples it lies, in metres, negative inward; NaN where it was not met. */
  readonly heights: Float32Array
}

/** Looks along the normals of samples for the mesh of a tree, from `front` metres outside to `back` inside; what is outermost counts. */
export const hitsAlong = (
  tree: RayTree,
  samples: RaySamples,
  { front, back }: { readonly front: number; readonly back: number },
): HitsAlong =>
  placesFound(tree, samples, (twin, [nodes, blocks, stack, from, count], heights, triangles, weights) =>
    twin.assembly.hitsAlong(nodes, blocks, stack, from, count, front, back, heights, triangles, weights),
  )

/** The places of a tree's mesh that are nearest to samples, wherever those face; `heights` are distances, NaN beyond `most` metres. */
export const nearestPlaces = (tree: RayTree, samples: RaySamples, most: number): HitsAlong =>
  placesFound(tree, samples, (twin, [nodes, blocks, stack, from, count], heights, triangles, weights) =>
    twin.assembly.nearestPlaces(nodes, blocks, stack, from, count, most, heights, triangles, weights),
  )

/** Calls `work` for samples, a run at a time, to find a place on the tree's mesh for each. */
function placesFound(
  tree: RayTree,
  { places, room = ownRoom, check = () => {} }: RaySamples,
  work: (
    twin: Simd,
    run: readonly [nodes: number, blocks: number, stack: number, from: number, count: number],
    heights: number,
    triangles: number,
    weights: number,
  ) => void,
): HitsAlong {
  const twin = bakingSimd()
  const count = places.length / 6
  const made = {
    heights: room(count),
    triangles: wordsIn(room, count),
    weights: room(count * 2),
  }
  twin.scratch(() => {
    const { nodes, blocks, stack } = placed(twin, tree)
    const from = twin.allOf(places)
    const heights = roomFor(twin, made.heights)
    const triangles = roomFor(twin, made.triangles)
    const weights = roomFor(twin, made.weights)
    for (let first = 0; first < count; first += SAMPLES) {
      check()
      const run = [nodes, blocks, stack, from + first * 24, Math.min(SAMPLES, count - first)] as const
      work(twin, run, heights.at + first * 4, triangles.at + first * 4, weights.at + first * 8)
    }
    for (const one of [heights, triangles, weights]) one.done()
  })
  return made
}

/** Samples that met a mesh, on it, with its normals; the others as they were. Six numbers each. */
export function placesOnHits(
  { positions, normals, triangles }: Surface,
  hits: HitsAlong,
  places: Float32Array,
  room: Room = ownRoom,
): Float32Array {
  const twin = bakingSimd()
  const out = room(places.length)
  twin.scratch(() => {
    const samples = roomFor(twin, out)
    twin.floats(samples.at, out.length).set(places)
    twin.assembly.placesOnHits(
      ...([twin.allOf(positions), twin.allOf(normals), wordsAt(twin, triangles)] as const),
      ...([twin.allOf(hits.heights), wordsAt(twin, hits.triangles), twin.allOf(hits.weights)] as const),
      hits.heights.length,
      samples.at,
    )
    samples.done()
  })
  return out
}
