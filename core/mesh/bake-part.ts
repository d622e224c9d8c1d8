import { GristError } from '../errors'
import type { Allocate, Field } from '../field/field'
import { createField, planeCount, plainMemory } from '../field/field'
import type { RayTree } from '../kernels/ray-tree'
import { buildRayTree } from '../kernels/ray-tree'
import type { BakeOptions, Baker, Traced } from './baker'
import type { Mesh, MeshPart } from './mesh'
import { boxOf } from './mesh'
import { nearestCovered, pad } from './padding'
import type { RasterTarget, SampleCount, TexelSamples } from './raster'
import { rasterRows } from './raster'
import { PartSurface, normalise } from './surface'

/** Rows that are baked in one go: samples are counted by them, so that a bake has the same bits whoever does which. */
const ROWS = 16

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
  /** Texels that are filled beyond islands. */
  readonly padding: number
  readonly onProgress?: (ratio: number) => void
  readonly isCancelled?: () => boolean
  readonly allocate?: Allocate
}

/** Mesh data of a part. */
export interface BakedPart {
  /** By the kind's name; numbers of parts as values of grey. */
  readonly fields: ReadonlyMap<string, Field>
  /** 1 where the part covers a texel. */
  readonly covered: Uint8Array
  /** Texels of each kind at which the high twin was not met; they are filled from the nearest that met it. */
  readonly missed: Readonly<Record<string, number>>
}

/** How mesh data is baked where nobody says otherwise, after the size of the model. Common practice. */
export function standardOptions(mesh: Mesh): BakeOptions {
  const { least, greatest } = boxOf(mesh)
  const diagonal = Math.sqrt(least.reduce((sum, v, k) => sum + (greatest[k]! - v) ** 2, 0))
  return {
    rays: 64,
    reach: diagonal / 4,
    fade: 0,
    bias: diagonal * 1e-4,
    spreadTurns: 0.25,
    coneTurns: 1 / 6,
    thickest: diagonal / 4,
    radius: diagonal / 100,
    front: diagonal / 50,
    back: diagonal / 50,
  }
}

/** A mesh ready for rays. */
export const traced = (mesh: Mesh, allocate?: Allocate): Traced => ({
  mesh,
  tree: buildRayTree(mesh.positions, mesh.triangles, allocate) satisfies RayTree,
})

/** What a name is called without what tells its low and high twins apart. */
const plainName = (name: string): string => name.toLowerCase().replace(/[ _.-]*(low|high|lp|hp)$/, '')

/**
 * The triangles of a high model that belong to a part of the low one: those of parts with the same name, but for an ending "low" or
 * "high"; all where none has it.
 */
export function twinOf(high: Mesh, { name }: MeshPart): Mesh {
  const own = high.parts.filter((part) => plainName(part.name) === plainName(name))
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

/**
 * Bakes kinds of mesh data of a part: texels that it covers are the mean of their samples, what lies around is filled from the nearest.
 * Throws mesh-invalid where the UV set is lacking, a kind needs a high twin that is not there, or nothing is covered; cancelled.
 */
export async function bakePart(request: PartBake): Promise<BakedPart> {
  const { mesh, part, uvSet, target, bakers, high, padding, allocate = plainMemory } = request
  const { width, height } = target
  const uvs = uvSet < part.uvSets ? mesh.uvSets[uvSet] : undefined
  if (!uvs) throw new GristError('mesh-invalid', 'It has no UVs to bake into. Unwrap it first.', { part: part.name })
  const lacking = bakers.find(({ needsHigh }) => needsHigh && !high)
  if (lacking)
    throw new GristError('mesh-invalid', `${lacking.title} is made of a high twin, and there is none.`, {
      part: part.name,
    })
  const surface = new PartSurface(mesh, part, uvs)
  const covered = new Uint8Array(width * height)
  const results = bakers.map((baker) => new Result(baker, width, height, allocate))
  const check = (): void => {
    if (request.isCancelled?.()) throw new GristError('cancelled', 'The work was cancelled.')
  }
  for (let top = 0; top < height; top += ROWS) {
    check()
    const rows = Math.min(ROWS, height - top)
    bakeRows(request, surface, top, rows, results, covered, check)
    request.onProgress?.((top + rows) / height)
    // Whoever waits gets a turn.
    if (top % (ROWS * 8) === 0) await new Promise((resolve) => setTimeout(resolve))
  }
  if (!covered.includes(1))
    throw new GristError('mesh-invalid', 'None of it lies in this tile of UVs.', { part: part.name })
  return {
    fields: new Map(results.map((result) => [result.baker.name, result.finished(padding)])),
    covered,
    missed: Object.fromEntries(results.map(({ baker, missed }) => [baker.name, missed])),
  }
}

function bakeRows(
  { target, samples: count, options, scene, high }: PartBake,
  surface: PartSurface,
  top: number,
  rows: number,
  results: readonly Result[],
  covered: Uint8Array,
  check: () => void,
): void {
  const samples = rasterRows(surface.corners, target, top, top + rows, count)
  if (samples.texels.length === 0) return
  for (const texel of samples.texels) covered[top * target.width + texel] = 1
  const firstNumber = top * target.width * count
  const shared = new Map<string, unknown>()
  const context = {
    shared,
    surface,
    samples,
    places: surface.placesOf(samples),
    firstNumber,
    scene,
    high,
    options,
    check,
  }
  for (const result of results) {
    check()
    result.add(result.baker.bake(context), samples, top)
  }
}

/** One kind on its way: means of samples, and where they are. */
class Result {
  missed = 0
  private readonly field: Field
  private readonly known: Uint8Array

  constructor(
    readonly baker: Baker,
    private readonly width: number,
    height: number,
    allocate: Allocate,
  ) {
    // Numbers of parts are exact as floats.
    this.field = createField(
      baker.type === 'id' ? 'grey' : baker.type === 'vector' ? 'colour' : baker.type,
      width,
      height,
      undefined,
      allocate,
    )
    this.field.planes.forEach((plane, p) => plane.fill(baker.empty[p]!))
    this.known = new Uint8Array(width * height)
  }

  add(values: Float32Array, { texels }: TexelSamples, top: number): void {
    const { planes, type } = this.field
    const each = planeCount(type)
    const isId = this.baker.type === 'id'
    const own = new Float32Array(3)
    for (let from = 0; from < texels.length;) {
      const texel = texels[from]!
      let end = from
      let met = 0
      let [a, b, c] = [0, 0, 0]
      for (; end < texels.length && texels[end] === texel; end++) {
        const at = end * each
        if (Number.isNaN(values[at]!)) continue
        met++
        // Numbers are not mixed: the first sample's counts.
        if (isId && met > 1) continue
        a += values[at]!
        if (each === 1) continue
        b += values[at + 1]!
        c += values[at + 2]!
      }
      from = end
      if (met === 0) {
        this.missed++
        continue
      }
      const share = isId ? 1 : met
      own[0] = a / share
      own[1] = b / share
      own[2] = c / share
      if (type === 'normal') normalise(own, 0)
      const at = top * this.width + texel
      for (let p = 0; p < planes.length; p++) planes[p]![at] = own[p]!
      this.known[at] = 1
    }
  }

  finished(padding: number): Field {
    pad(this.field.planes, nearestCovered(this.known, this.width, this.field.height, padding))
    return this.field
  }
}
