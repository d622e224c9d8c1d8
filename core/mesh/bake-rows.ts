import type { Room } from '../kernels/baking-room'
import { withRoom } from '../kernels/baking-room'
import { coverTexels, meansOfSamples } from '../kernels/means'
import type { BakeOptions, Baker, Texture, Traced } from './baker'
import { bakers } from './bakers/bakers.generated'
import { highHits } from './high'
import type { Mesh } from './mesh'
import type { RasterTarget, SampleCount, TexelSamples } from './raster'
import { TileRaster } from './raster'
import { sparseSamples } from './sparse'
import { PartSurface } from './surface'

/** Rows that are baked in one go: samples are counted by them, so that a bake has the same bits whoever does which. */
export const ROWS = 16

/** What rows of a bake are made from and go to. Its arrays may lie in memory that threads share. */
export interface BakeJob {
  readonly mesh: Mesh
  /** The part's place among those of the mesh. */
  readonly part: number
  readonly uvs: Float32Array
  readonly target: RasterTarget
  readonly samples: SampleCount
  readonly options: BakeOptions
  readonly scene: Traced
  readonly high: Traced | null
  readonly cage: Float32Array | null
  readonly texture: Texture | null
  /** Texels that the part covers. What it and the results hold before is of no account. */
  readonly covered: Uint8Array
  readonly results: readonly KindResult[]
}

/** Where one kind of mesh data goes. */
export interface KindResult {
  readonly kind: string
  readonly planes: readonly Float32Array[]
  /** 1 where a texel has a value. */
  readonly known: Uint8Array
  /** Texels at which all rays missed: one number, added to by all threads. */
  readonly missed: Int32Array
}

interface KindOfJob {
  readonly baker: Baker
  readonly result: KindResult
}

/** Does blocks of rows of one job on this thread. */
export class RowsBaker {
  private readonly surface: PartSurface
  private readonly raster: TileRaster
  private readonly kinds: readonly KindOfJob[]

  constructor(
    private readonly job: BakeJob,
    private readonly check: () => void,
  ) {
    this.surface = new PartSurface(job.mesh, job.mesh.parts[job.part]!, job.uvs)
    this.raster = new TileRaster(this.surface.corners, job.target, job.samples)
    this.kinds = job.results.map((result) => ({ baker: bakers.find(({ name }) => name === result.kind)!, result }))
  }

  /** How many blocks there are. */
  static blocksOf = ({ target }: Pick<BakeJob, 'target'>): number => Math.ceil(target.height / ROWS)

  bake(block: number): void {
    withRoom((room) => this.bakeIn(room, block))
  }

  private bakeIn(room: Room, block: number): void {
    const { target, samples: count, options, scene, high, cage, texture, covered } = this.job
    const top = block * ROWS
    const end = Math.min(target.height, top + ROWS)
    const texels = [top * target.width, end * target.width] as const
    const samples = this.raster.between(top, end, room)
    const own = covered.subarray(...texels)
    own.fill(0)
    if (samples.texels.length === 0) return this.kinds.forEach((kind) => clear(kind, texels))
    coverTexels(samples.texels, own)
    const context = {
      surface: this.surface,
      samples,
      places: this.surface.placesOf(samples, room),
      perTexel: count,
      firstNumber: top * target.width * count,
      scene,
      high,
      cage,
      texture,
      options,
      shared: new Map<string, unknown>(),
      room,
      check: this.check,
    }
    const few =
      options.rayStep > 1 && this.kinds.some(({ baker }) => baker.sparse)
        ? sparseSamples(context, target.width, options.rayStep)
        : null
    for (const { baker, result } of this.kinds) {
      this.check()
      const values =
        few && baker.sparse ? few.spread(baker.bake(few.context), result.planes.length) : baker.bake(context)
      // What is seen from the high twin is not known where it was not met; who reads images tells by itself.
      if (high && baker.reads === 'model' && !baker.needsTexture)
        leaveOut(values, result.planes.length, highHits(context, high).heights)
      // Just before they are written.
      clear({ baker, result }, texels)
      add(baker, values, samples, texels, result)
    }
  }
}

/** Some texels as they are where nothing is. */
function clear({ baker, result: { planes, known } }: KindOfJob, texels: readonly [from: number, to: number]): void {
  known.fill(0, ...texels)
  for (let p = 0; p < planes.length; p++) planes[p]!.fill(baker.empty[p]!, ...texels)
}

/** Marks samples as without a value where the high twin was not met. */
function leaveOut(values: Float32Array, each: number, heights: Float32Array): void {
  for (let i = 0; i < heights.length; i++) if (Number.isNaN(heights[i]!)) values[i * each] = NaN
}

/** Puts means of samples into their texels, of which `first` to `end` are the block's. */
function add(
  { type }: Baker,
  values: Float32Array,
  { texels }: TexelSamples,
  [first, end]: readonly [first: number, end: number],
  { planes, known, missed }: KindResult,
): void {
  const [x, y, z] = planes.map((plane) => plane.subarray(first, end))
  const some = meansOfSamples(values, texels, { x: x!, y, z, known: known.subarray(first, end) }, type)
  if (some > 0) Atomics.add(missed, 0, some)
}
