import { decodeSrgb } from '../colour/srgb'
import type { IslandThreads } from '../engine/island-threads'
import { GristError } from '../errors'
import { copiedInto } from '../field/copied-into'
import type { Allocate, Field } from '../field/field'
import { createField, plainMemory } from '../field/field'
import type { RasterImage } from '../field/pyramid'
import type { RayTree } from '../kernels/ray-tree'
import { buildRayTree } from '../kernels/ray-tree'
import type { BakeJob } from './bake-rows'
import { RowsBaker } from './bake-rows'
import type { BakeOptions, Baker, Texture, Traced } from './baker'
import type { Mesh, MeshPart } from './mesh'
import { boxOf } from './mesh'
import type { FinishWork } from './finish-bake'
import { finishBlock } from './finish-bake'
import type { RasterTarget, SampleCount } from './raster'
import type { Rims } from './seams/rims'
import { rimsOf } from './seams/rims'
import { topologyOf } from './seams/topology'

export interface PartBake {
  readonly mesh: Mesh
  readonly part: MeshPart
  readonly uvSet: number
  readonly target: RasterTarget
  readonly samples: SampleCount
  readonly bakers: readonly Baker[]
  readonly options: BakeOptions
  readonly scene: Traced
  readonly high: Traced | null
  /** Places of a cage by the vertices of the mesh; rays to the high twin begin there. */
  readonly cage?: Float32Array | null
  /** The image that is transferred. */
  readonly texture?: Texture | null
  /** Texels that are filled beyond islands. */
  readonly padding: number
  /** Of the part in this tile (partRims); found anew where none are given. */
  readonly rims?: Rims
  readonly onProgress?: (ratio: number) => void
  readonly isCancelled?: () => boolean
  /** Who does it; this thread where nobody is named. Meshes and trees lie in their memory then. */
  readonly threads?: BakeThreads
}

/** Mesh data of a part. */
export interface BakedPart {
  /** By the kind's name; numbers of parts as values of grey. */
  readonly fields: ReadonlyMap<string, Field>
  /** 1 where the part covers a texel. */
  readonly covered: Uint8Array
  /** Texels of each kind at which the high twin was not met; they are filled from the nearest that met it. */
  readonly missed: Readonly<Record<string, number>>
  /** Of kinds that missed any: 1 at those texels. */
  readonly missedAt: ReadonlyMap<string, Uint8Array>
}

/** How mesh data is baked where nobody says otherwise, after the size of the model. Common practice. */
export function standardOptions(mesh: Pick<Mesh, 'positions' | 'triangles'>): BakeOptions {
  const { min, max } = boxOf(mesh)
  const diagonal = Math.sqrt(min.reduce((sum, v, k) => sum + (max[k]! - v) ** 2, 0))
  return {
    rays: 64,
    rayStep: 1,
    reach: diagonal / 4,
    fade: 0,
    bias: diagonal * 1e-4,
    spreadTurns: 0.25,
    coneTurns: 1 / 6,
    thickest: diagonal / 4,
    radius: diagonal / 100,
    front: diagonal / 50,
    back: diagonal / 50,
    leakLength: diagonal / 6,
    leakVariation: 0.6,
    sunHeightTurns: 0.11,
    sunTurns: 0.13,
    sunShare: 0.6,
    transferFrom: 1,
    transferBy: 0,
    transferSet: 0,
  }
}

/** A mesh ready for rays. */
export const traced = (mesh: Mesh, allocate?: Allocate): Traced => ({
  mesh,
  tree: buildRayTree(mesh.positions, mesh.triangles, allocate) satisfies RayTree,
})

/** What a name is called without what tells its low and high twins apart. */
const plainName = (name: string): string => name.toLowerCase().replace(/[ _.-]*(low|high|lp|hp)$/, '')

/** Parts of a high model that have the name of a part of the low one. */
export const twinParts = <P extends { readonly name: string }>(
  high: readonly P[],
  { name }: { readonly name: string },
): P[] => high.filter((part) => plainName(part.name) === plainName(name))

/**
 * The triangles of a high model that belong to a part of the low one: those of parts with the same name, but for an ending "low" or
 * "high"; all where none has it.
 */
export function twinOf(high: Mesh, part: MeshPart): Mesh {
  const own = twinParts(high.parts, part)
  if (own.length === 0 || own.length === high.parts.length) return high
  const triangles = new Uint32Array(own.reduce((sum, { count }) => sum + count, 0) * 3)
  let at = 0
  const parts = own.map((part) => {
    const from = at / 3
    triangles.set(high.triangles.subarray(part.from * 3, (part.from + part.count) * 3), at)
    at += part.count * 3
    return { ...part, from }
  })
  return { ...high, triangles, parts }
}

/** Who does the blocks of a bake: this thread, or several. */
export interface BakeThreads {
  /** Memory that they all see. */
  readonly allocate: Allocate
  /** Does all blocks of a job. Throws cancelled. */
  bakeMesh(
    job: BakeJob,
    signals: { readonly isCancelled: () => boolean; readonly onProgress?: (ratio: number) => void },
  ): Promise<void>
  /** Does all blocks of what comes after; on this thread where nobody else does. Throws cancelled. */
  finishMesh?(work: FinishWork, isCancelled: () => boolean): Promise<void>
}

/** One block after the other on this thread. */
const bakeHere: BakeThreads = {
  allocate: plainMemory,
  bakeMesh: async (job, { isCancelled, onProgress }) => {
    const baker = new RowsBaker(job, () => {
      if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
    })
    const blocks = RowsBaker.blocksOf(job)
    for (let block = 0; block < blocks; block++) {
      baker.bake(block)
      onProgress?.((block + 1) / blocks)
      // Whoever waits gets a turn.
      await new Promise((resolve) => setTimeout(resolve))
    }
  },
}

/**
 * Bakes kinds of mesh data of a part: texels that it covers are the mean of their samples; those about the borders of islands have what
 * lies where the surface goes on over a seam; what lies around is filled from the nearest.
 * The same bits whoever does which blocks. Throws mesh-invalid where the UV set is lacking, a kind needs a high twin that is not there,
 * or nothing is covered; cancelled.
 */
export async function bakePart(request: PartBake): Promise<BakedPart> {
  const { mesh, part, uvSet, target, bakers, high, padding, threads = bakeHere } = request
  const { width, height } = target
  const uvs = uvSet < part.uvSets ? mesh.uvSets[uvSet] : undefined
  if (!uvs) throw new GristError('mesh-invalid', 'It has no UVs to bake into. Unwrap it first.', { part: part.name })
  const lacking = bakers.find(({ needsHigh }) => needsHigh && !high)
  if (lacking)
    throw new GristError('mesh-invalid', `${lacking.title} is made of a high twin, and there is none.`, {
      part: part.name,
    })
  if (bakers.some(({ needsTexture }) => needsTexture) && !request.texture)
    throw new GristError('mesh-invalid', 'Transfer needs an image.', { part: part.name })
  const { allocate } = threads
  const bytes = (): Uint8Array => allocate(width * height)
  const word = (): Int32Array => {
    const { buffer, byteOffset } = allocate(4).fill(0)
    return new Int32Array(buffer, byteOffset, 1)
  }
  const fields = bakers.map((baker) => {
    // Numbers of parts are exact as floats.
    const type = baker.type === 'id' ? 'grey' : baker.type === 'vector' ? 'colour' : baker.type
    return createField(type, width, height, undefined, allocate)
  })
  const job: BakeJob = {
    mesh,
    part: mesh.parts.indexOf(part),
    uvs,
    target,
    samples: request.samples,
    options: request.options,
    scene: request.scene,
    high,
    cage: request.cage ?? null,
    texture: request.texture ?? null,
    covered: bytes(),
    results: bakers.map(({ name }, i) => ({ kind: name, planes: fields[i]!.planes, known: bytes(), missed: word() })),
  }
  const isCancelled = request.isCancelled ?? ((): boolean => false)
  // While threads are at it.
  const rimsFound = request.rims ?? partRims(request, isCancelled)
  // Who fails first is told below.
  void Promise.resolve(rimsFound).catch(() => {})
  await threads.bakeMesh(job, { isCancelled, onProgress: request.onProgress })
  if (!job.covered.includes(1))
    throw new GristError('mesh-invalid', 'None of it lies in this tile of UVs.', { part: part.name })
  const rims = await rimsFound
  const missedAt = new Map<string, Uint8Array>()
  for (const { kind, known, missed } of job.results)
    if (missed[0]! > 0) missedAt.set(kind, difference(job.covered, known))
  await finish(job, rims, bakers, padding, threads, isCancelled)
  return {
    fields: new Map(bakers.map(({ name }, i) => [name, fields[i]!])),
    covered: job.covered,
    missed: Object.fromEntries(job.results.map(({ kind, missed }) => [kind, missed[0]!])),
    missedAt,
  }
}

/** Rows of planes that are filled at a time have about so many texels. */
const PIECE = 65536

/** Gives texels about the borders of islands, and those around, what belongs there. */
async function finish(
  { results, target: { width, height } }: BakeJob,
  rims: Rims,
  bakers: readonly Baker[],
  padding: number,
  threads: BakeThreads,
  isCancelled: () => boolean,
): Promise<void> {
  const { allocate } = threads
  const done = (work: FinishWork): Promise<void> =>
    threads.finishMesh ? threads.finishMesh(work, isCancelled) : finishHere(work, isCancelled)
  const blocks = results.flatMap(({ planes, known }, i) => {
    const { rim = 'beyond', type } = bakers[i]!
    if (rim === 'own' || type === 'id') return []
    return [{ planes, known, turned: rim === 'turned', unit: type === 'normal' }]
  })
  const own = {
    texels: copiedInto(allocate, rims.texels),
    reads: copiedInto(allocate, rims.reads),
    readRims: copiedInto(allocate, rims.readRims),
  }
  await done({ step: 'rims', width, rims: own, blocks })
  // Most kinds know the same texels.
  const fillings: { readonly known: Uint8Array; readonly nearest: Int32Array; readonly planes: Float32Array[] }[] = []
  for (const { planes, known } of results) {
    let filling = fillings.find((other) => sameBytes(other.known, known))
    if (!filling) {
      const { buffer, byteOffset } = allocate(known.length * 4)
      fillings.push((filling = { known, nearest: new Int32Array(buffer, byteOffset, known.length), planes: [] }))
    }
    filling.planes.push(...planes)
  }
  await done({ step: 'nearest', width, padding, blocks: fillings.map(({ known, nearest }) => ({ known, nearest })) })
  await done({
    step: 'pad',
    width,
    blocks: fillings.flatMap(({ planes, nearest }) => inRows({ planes, nearest }, height, Math.ceil(PIECE / width))),
  })
}

const inRows = <T>(one: T, height: number, rows: number): (T & { readonly from: number; readonly to: number })[] =>
  Array.from({ length: Math.ceil(height / rows) }, (_, i) => ({
    ...one,
    ...{ from: i * rows, to: Math.min(height, (i + 1) * rows) },
  }))

async function finishHere(work: FinishWork, isCancelled: () => boolean): Promise<void> {
  for (let block = 0; block < work.blocks.length; block++) {
    if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
    finishBlock(work, block)
    // Whoever waits gets a turn.
    await new Promise((resolve) => setTimeout(resolve))
  }
}

/** The rims of a part in the tile that it is baked into; found on this thread unless others are named. Rejects with `cancelled`. */
export function partRims(
  { mesh, part, uvSet, target }: Pick<PartBake, 'mesh' | 'part' | 'uvSet' | 'target'>,
  isCancelled: () => boolean = () => false,
  threads?: IslandThreads,
): Promise<Rims> {
  const topology = topologyOf(mesh, part, uvSet)
  const uvs = topology.uvs.map((value, i) => value - (i % 2 ? target.top : target.left))
  return rimsOf({ ...topology, uvs }, target.width, target.height, { isCancelled, threads })
}

/** The bytes that fill whole words, as those: what is done to all of many bytes is done four at a time. */
const wordsOf = (bytes: Uint8Array): Uint32Array =>
  new Uint32Array(bytes.buffer, bytes.byteOffset, bytes.byteOffset % 4 === 0 ? bytes.length >> 2 : 0)

function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  const p = wordsOf(a)
  const q = wordsOf(b)
  const words = Math.min(p.length, q.length)
  for (let i = 0; i < words; i++) if (p[i] !== q[i]) return false
  for (let i = words * 4; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}

/** 1 where something is covered and not known; both are 0 or 1. */
function difference(covered: Uint8Array, known: Uint8Array): Uint8Array {
  const out = new Uint8Array(known.length)
  const words = wordsOf(out)
  const p = wordsOf(covered)
  const q = wordsOf(known)
  const some = Math.min(words.length, p.length, q.length)
  for (let i = 0; i < some; i++) words[i] = p[i]! & ~q[i]!
  for (let i = some * 4; i < out.length; i++) out[i] = covered[i]! & ~known[i]!
  return out
}

/** Colours of an image in linear light, in memory that threads share. */
export function sharedTexture(
  { width, height, channels, values, float }: RasterImage,
  encoded: boolean,
  allocate: Allocate = plainMemory,
): Texture {
  const { buffer, byteOffset } = allocate(width * height * 12)
  const out = new Float32Array(buffer, byteOffset, width * height * 3)
  for (let i = 0; i < width * height; i++)
    for (let k = 0; k < 3; k++) {
      const value = values[i * channels + (channels < 3 ? 0 : k)]!
      out[i * 3 + k] = encoded && !float ? decodeSrgb(value) : value
    }
  return { width, height, values: out }
}

/** A copy of a mesh whose arrays lie in memory that threads share. */
export function sharedMesh(mesh: Mesh, allocate: Allocate): Mesh {
  const floats = (values: Float32Array): Float32Array => copiedInto(allocate, values)
  return {
    ...mesh,
    positions: floats(mesh.positions),
    normals: floats(mesh.normals),
    uvSets: mesh.uvSets.map(floats),
    colours: mesh.colours && floats(mesh.colours),
    triangles: copiedInto(allocate, mesh.triangles),
  }
}
