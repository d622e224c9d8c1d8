import { GristError } from '#core/errors'
import type { Allocate } from '#core/field/field'
import type { Field } from '#core/field/field'
import type { RasterImage } from '#core/field/pyramid'
import { bakePart, partRims, sharedMesh, sharedTexture, traced, twinOf } from '#core/mesh/bake-part'
import type { Baker, ShownScale, Traced } from '#core/mesh/baker'
import type { BakeSettings } from '#core/mesh/bake-settings'
import { optionsFor } from '#core/mesh/bake-settings'
import { cageFor } from '#core/mesh/cage'
import type { Mesh } from '#core/mesh/mesh'
import { boxOf } from '#core/mesh/mesh'
import type { MeshDataPlace, ModelContents } from '#core/mesh/mesh-data'
import { bakedTogether, bakerNamed, meshDataKey, tilePlace, tilesOf } from '#core/mesh/mesh-data'
import type { MeshDataRecord } from '#core/mesh/mesh-data-record'
import { meshDataRecord } from '#core/mesh/mesh-data-record'
import type { Rims } from '#core/mesh/seams/rims'
import type { Threads } from './threads'

/** Mesh data of one kind of a part in one tile, as a bake has made them. */
export interface BakedMeshData {
  readonly place: MeshDataPlace
  readonly part: string
  readonly key: string
  readonly baker: Baker
  readonly field: Field
  readonly missed: number
  /** 1 at texels that were missed; absent where none was. */
  readonly missedAt: Uint8Array | undefined
  readonly scale: ShownScale
  /** Its record, for the SHA-256 of its meshDataBytes. */
  readonly record: (sha256: string) => MeshDataRecord
}

/** What is at work, and how far it is. */
export interface BakeAtWork {
  readonly part: number
  readonly kinds: readonly string[]
  /** 0–1 of these kinds, and of all. */
  readonly ratio: number
  readonly whole: number
  readonly secondsLeft: number | null
  readonly cellsDone: number
}

export interface ModelBake {
  readonly name: string
  readonly application: string
  readonly mesh: Mesh
  readonly high: Mesh | null
  readonly cage: Mesh | null
  /** The image that is transferred. */
  readonly image: RasterImage | null
  readonly contents: ModelContents
  readonly cells: readonly { readonly part: number; readonly kind: string }[]
  readonly settings: BakeSettings
  /** UDIM numbers of the tiles that a part lies in. */
  tilesOf(part: number): readonly number[]
  /** What has its key already is left as it is. */
  isKnown?(place: MeshDataPlace, key: string): boolean
  /** Takes what was made, one after the other. */
  onBaked(made: BakedMeshData): Promise<void>
  onProgress?(now: BakeAtWork): void
  isCancelled(): boolean
}

/**
 * Makes mesh data of a model, part by part, kinds that go together at once, and gives back the memory that it took. The same bits whatever
 * the threads. Throws what bakePart throws.
 */
export async function bakeModel(executor: Threads, bake: ModelBake): Promise<void> {
  const memory = ownMemory(executor)
  try {
    await bakeIn(memory, executor, bake)
  } finally {
    memory.freeAll()
  }
}

/** Memory of an executor that is given back together. */
function ownMemory(executor: Threads): { allocate: Allocate; mark(): () => void; freeAll(): void } {
  const regions: Uint8Array[] = []
  const freeFrom = (first: number): void => regions.splice(first).forEach((region) => executor.free(region))
  return {
    allocate: (bytes) => {
      const region = executor.allocate(bytes)
      regions.push(region)
      return region
    },
    /** Gives back what is taken from here on. */
    mark: () => {
      const first = regions.length
      return () => freeFrom(first)
    },
    freeAll: () => freeFrom(0),
  }
}

async function bakeIn(memory: ReturnType<typeof ownMemory>, executor: Threads, bake: ModelBake): Promise<void> {
  const { allocate } = memory
  const { settings, contents } = bake
  const mesh = sharedMesh(bake.mesh, allocate)
  const options = optionsFor(settings, mesh)
  const cage = bake.cage ? cageFor(mesh, bake.cage) : null
  // Images of 8 bits are taken for sRGB.
  const texture = bake.image ? sharedTexture(bake.image, bake.image.bits === 8, allocate) : null
  const scale = { options, box: boxOf(bake.mesh) }
  const threads = {
    allocate,
    bakeMesh: executor.bakeMesh.bind(executor),
    finishMesh: executor.finishMesh.bind(executor),
  }
  let whole: Traced | null = null
  const keyAt = (place: MeshDataPlace): string => meshDataKey(contents, place, settings, options)
  const work = tasksOf(bake).flatMap((task) => {
    const left = task.kinds.filter(({ name: kind }) => {
      const place = { part: task.part, kind, udim: task.udim }
      return !bake.isKnown?.(place, keyAt(place))
    })
    return left.length === 0 ? [] : [{ ...task, kinds: left, cost: costOf(left, settings) }]
  })
  const all = work.reduce((sum, { cost }) => sum + cost, 0)
  let [done, cellsDone] = [0, 0]
  for (const number of new Set(work.map((task) => task.part))) {
    const giveBackPart = memory.mark()
    const part = mesh.parts[number]!
    const rims = new Map<number, Rims>()
    const high = bake.high ? traced(sharedMesh(twinOf(bake.high, part), allocate), allocate) : null
    const scene = high ?? (whole ??= traced(mesh, allocate))
    for (const { kinds, udim, cost } of work.filter((task) => task.part === number)) {
      const giveBack = memory.mark()
      const began = Date.now()
      const tell = (ratio: number): void =>
        bake.onProgress?.({
          part: number,
          kinds: kinds.map(({ name }) => name),
          ratio,
          whole: (done + cost * ratio) / all,
          secondsLeft: ratio > 0.02 ? ((Date.now() - began) / 1000 / ratio) * (1 - ratio) : null,
          cellsDone,
        })
      tell(0)
      const lying = {
        mesh,
        part,
        uvSet: settings.uvSet,
        target: { width: settings.size, height: settings.size, ...tilePlace(udim) },
      }
      if (!rims.has(udim)) rims.set(udim, await partRims(lying, bake.isCancelled, executor))
      const baked = await bakePart({
        ...lying,
        rims: rims.get(udim),
        samples: settings.samples,
        bakers: kinds,
        options,
        ...{ scene, high, cage, texture, threads },
        padding: settings.padding,
        onProgress: tell,
        isCancelled: bake.isCancelled,
      })
      for (const baker of kinds) {
        const place = { part: number, kind: baker.name, udim }
        const field = baked.fields.get(baker.name)!
        const missed = baked.missed[baker.name]!
        const record = (sha256: string): MeshDataRecord =>
          meshDataRecord({
            ...{ application: bake.application, model: bake.name, part: part.name, place, contents },
            ...{ settings, options, missed, kind: baker, sha256 },
          })
        await bake.onBaked({
          ...{ place, part: part.name, key: keyAt(place), baker, field, missed, scale, record },
          missedAt: baked.missedAt.get(baker.name),
        })
        cellsDone++
      }
      done += cost
      tell(1)
      giveBack()
    }
    // The tree of the whole model serves the next part too.
    if (high) giveBackPart()
  }
}

/** What a group of kinds costs beside others: rays a texel, near enough. */
const costOf = (kinds: readonly Baker[], { rays, samples }: BakeSettings): number =>
  Math.max(
    ...kinds.map(({ uses }) =>
      uses.includes('rays')
        ? rays + samples
        : samples * (uses.includes('leakLength') ? 48 : uses.includes('radius') ? 24 : uses.includes('front') ? 2 : 1),
    ),
  )

interface Task {
  readonly part: number
  readonly udim: number
  readonly kinds: Baker[]
}

/** Work by part and tile; kinds that are made together are one. Throws mesh-invalid where there is no such kind. */
function tasksOf({ mesh, cells, settings, tilesOf: tiles }: ModelBake): Task[] {
  const tasks: Task[] = []
  for (const [part, { name }] of mesh.parts.entries()) {
    const kinds = cells
      .filter((cell) => cell.part === part)
      .map(({ kind }) => {
        const found = bakerNamed(kind)
        if (!found) throw new GristError('mesh-invalid', `There is no mesh data "${kind}".`, { part: name })
        return found
      })
    for (const group of bakedTogether(kinds, settings))
      for (const udim of tilesOf(tiles(part), settings)) tasks.push({ part, udim, kinds: group })
  }
  return tasks
}
