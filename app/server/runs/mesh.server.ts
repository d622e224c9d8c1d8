import { join } from 'node:path'
import { createReadStream } from 'node:fs'
import { rm, writeFile } from 'node:fs/promises'
import type { Allocate } from '#core/field/field'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import type { Baker, Texture, Traced } from '#core/mesh/baker'
import { bakePart, sharedMesh, sharedTexture, traced, twinOf } from '#core/mesh/bake-part'
import type { BakeThreads } from '#core/mesh/bake-part'
import type { BakeSettings } from '#core/mesh/bake-settings'
import { optionsFor } from '#core/mesh/bake-settings'
import { cageFor } from '#core/mesh/cage'
import type { Mesh } from '#core/mesh/mesh'
import { boxOf } from '#core/mesh/mesh'
import type { MeshDataPlace } from '#core/mesh/mesh-data'
import { bakedTogether, bakerNamed, meshDataKey, tilePlace, tilesOf } from '#core/mesh/mesh-data'
import { meshDataRecord } from '#core/mesh/mesh-data-record'
import { onModelThread } from '#runtime/node/guarded-model'
import { meshDataPictures, missedPng } from '#runtime/node/mesh-pictures'
import { ownFolder } from '#runtime/node/own-folders'
import type { Threads } from '#runtime/node/threads'
import type { ModelPage } from '../../contracts/model'
import { meshRequest } from '../../contracts/run'
import { library } from '../assets/assets.server'
import { keysOf, placeName, saveMeshData } from '../models/mesh-data.server'
import { keepMesh, keptMesh, openModel, setMesh } from '../models/models.server'
import { wholeBlob } from '../storage/blobs.server'
import type { Signals } from './bake.server'
import type { MeshClaim } from './runs.server'
import { endRun, logRun } from './runs.server'

/** Does what a run on a model asks for. */
export async function workOnModel(
  claim: MeshClaim,
  executor: Threads,
  application: string,
  signals: Signals,
): Promise<void> {
  const asked = meshRequest.parse(claim.request)
  const model = await openModel(claim.modelId)
  if (asked.do === 'lay out') {
    await layOut(claim, model, asked.change, signals)
    return
  }
  const memory = ownMemory(executor)
  try {
    const made = await bakeCells(claim, model, asked, {
      threads: { ...memory, bakeMesh: (job, how) => executor.bakeMesh(job, how) },
      application,
      signals,
    })
    await logRun(claim, made)
    await endRun(claim, 'done')
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

interface Doing {
  readonly threads: BakeThreads & { mark(): () => void }
  readonly application: string
  readonly signals: Signals
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

/** Makes the mesh data of cells, part by part, kinds that go together at once; what has its key already is left as it is. */
async function bakeCells(
  claim: MeshClaim,
  model: ModelPage,
  { cells, settings }: { cells: readonly { part: number; kind: string }[]; settings: BakeSettings },
  { threads, application, signals }: Doing,
): Promise<string> {
  const given = await keptMesh(model.mesh)
  const mesh = sharedMesh(given, threads.allocate)
  const options = optionsFor(settings, mesh)
  const contents = { mesh: model.mesh, high: model.high?.sha256 ?? null, cage: model.cage?.sha256 ?? null }
  const highMesh = model.high ? await keptMesh(model.high.sha256) : null
  const cage = model.cage ? cageFor(mesh, await keptMesh(model.cage.sha256)) : null
  const texture = settings.transferImage ? await textureOf(settings.transferImage, threads.allocate) : null
  const known = await keysOf(model.id)
  const scale = { options, box: boxOf(given) }
  let whole: Traced | null = null

  const work = tasksOf(mesh, model, cells, settings).flatMap((task) => {
    const left = task.kinds.filter((kind) => {
      const place = { part: task.part, kind: kind.name, udim: task.udim }
      return known.get(placeName(place)) !== meshDataKey(contents, place, settings, options)
    })
    return left.length === 0 ? [] : [{ ...task, kinds: left, cost: costOf(left, settings) }]
  })
  const all = work.reduce((sum, { cost }) => sum + cost, 0)
  let [done, cellsDone, missedCells] = [0, 0, 0]
  for (const part of new Set(work.map((task) => task.part))) {
    const giveBackPart = threads.mark()
    const low = mesh.parts[part]!
    const high = highMesh ? traced(sharedMesh(twinOf(highMesh, low), threads.allocate), threads.allocate) : null
    const scene = high ?? (whole ??= traced(mesh, threads.allocate))
    for (const { kinds, udim, cost } of work.filter((task) => task.part === part)) {
      const giveBack = threads.mark()
      const began = Date.now()
      const tell = (ratio: number): void => {
        signals.onProgress((done + cost * ratio) / all)
        const seconds = (Date.now() - began) / 1000
        signals.onDetail({
          part,
          kinds: kinds.map(({ name }) => name),
          ratio,
          secondsLeft: ratio > 0.02 ? (seconds / ratio) * (1 - ratio) : null,
          cellsDone,
        })
      }
      tell(0)
      const baked = await bakePart({
        mesh,
        part: low,
        uvSet: settings.uvSet,
        target: { width: settings.size, height: settings.size, ...tilePlace(udim) },
        samples: settings.samples,
        bakers: kinds,
        options,
        scene,
        high,
        cage,
        texture,
        padding: settings.padding,
        threads,
        onProgress: tell,
        isCancelled: signals.isCancelled,
      })
      for (const kind of kinds) {
        const place: MeshDataPlace = { part, kind: kind.name, udim }
        const field = baked.fields.get(kind.name)!
        const missed = baked.missed[kind.name]!
        const missedAt = baked.missedAt.get(kind.name)
        const key = meshDataKey(contents, place, settings, options)
        const kept = await saveMeshData(claim, {
          ...place,
          key,
          field,
          missed,
          ...(await meshDataPictures(kind, field, scale)),
          missedPicture: missedAt ? await missedPng(missedAt, settings.size) : null,
          record: meshDataRecord({
            application,
            model: model.name,
            part: low.name,
            place,
            contents,
            settings,
            options,
            missed,
            kind,
            field,
          }),
        })
        if (!kept) throw new GristError('cancelled', 'The run went to another worker or was cancelled.')
        cellsDone++
        if (missed > 0) missedCells++
      }
      done += cost
      tell(1)
      giveBack()
    }
    // The tree of the whole model serves the next part too.
    if (high) giveBackPart()
  }
  const of = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`
  return `${of(cellsDone, 'set')} of mesh data made${missedCells > 0 ? `; at ${missedCells} of them rays missed the high twin` : ''}.`
}

/** An image of the library, to be transferred; of 8 bits it is taken for sRGB. */
async function textureOf(sha256: string, allocate: Allocate): Promise<Texture> {
  const image = await library.load(`sha256:${sha256}`)
  return sharedTexture(image, image.bits === 8, allocate)
}

interface Task {
  readonly part: number
  readonly udim: number
  readonly kinds: Baker[]
}

/** Work by part and tile; kinds that are made together are one. */
function tasksOf(
  mesh: Mesh,
  model: ModelPage,
  cells: readonly { part: number; kind: string }[],
  settings: BakeSettings,
): Task[] {
  const tasks: Task[] = []
  for (const part of mesh.parts.keys()) {
    const kinds = cells.filter((cell) => cell.part === part).map((cell) => bakerNamed(cell.kind))
    const layout = model.summary.parts[part]!.layouts[settings.uvSet]
    for (const group of bakedTogether(kinds.filter((kind) => kind !== undefined)))
      for (const udim of tilesOf(layout?.tiles ?? [], settings)) tasks.push({ part, udim, kinds: group })
  }
  return tasks
}

type ChangedLayout = Extract<MeshClaim['request'], { do: 'lay out' }>['change']

/** Lays a model out another way, on a thread that is ended when it is no longer wanted. */
async function layOut(claim: MeshClaim, model: ModelPage, change: ChangedLayout, signals: Signals): Promise<void> {
  const folder = await ownFolder()
  const stop = new AbortController()
  const began = Date.now()
  const watch = setInterval(() => {
    if (signals.isCancelled()) stop.abort()
    // How far the package is, it does not say: it goes by what this many triangles took elsewhere, and stays below the end.
    const likely = 500 + model.summary.triangles * (change.cure === 'unwrap' ? 0.6 : 0.1)
    const ratio = 1 - Math.exp(-(Date.now() - began) / likely)
    signals.onProgress(ratio * 0.95)
  }, 50)
  try {
    const [mesh, out] = [join(folder, 'mesh'), join(folder, 'out')]
    await writeFile(mesh, await wholeBlob(model.mesh))
    const result = await onModelThread(
      { kind: 'lay out', mesh, how: change, out },
      { milliseconds: LIMITS.model.layoutMilliseconds, signal: stop.signal },
    )
    const sha256 = await keepMesh(createReadStream(out), result.summary)
    if (signals.isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
    await setMesh(model.id, sha256)
    await endRun(claim, 'done')
  } finally {
    clearInterval(watch)
    await rm(folder, { recursive: true, force: true })
  }
}
