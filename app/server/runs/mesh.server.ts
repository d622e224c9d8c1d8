import { join } from 'node:path'
import { createReadStream } from 'node:fs'
import { rm, writeFile } from 'node:fs/promises'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import { bakeModel } from '#runtime/node/bake-model'
import { onModelThreads } from '#runtime/node/guarded-model'
import { meshDataShape } from '#core/mesh/mesh-data-raster'
import { developed } from '#runtime/node/developed-mesh-data'
import { ownFolder } from '#runtime/node/own-folders'
import type { Threads } from '#runtime/node/threads'
import type { ModelPage } from '../../contracts/model'
import { meshRequest } from '../../contracts/run'
import { library } from '../assets/assets.server'
import { keysOf, placeName, saveMeshData } from '../models/mesh-data.server'
import { keepMesh, keptMesh, openModel, setBakeSettings, setMesh } from '../models/models.server'
import { wholeBlob } from '../storage/blobs.server'
import type { Signals } from './bake.server'
import { deliverModel } from './deliver-model.server'
import type { MeshClaim } from './runs.server'
import { endRun, enqueue, logRun } from './runs.server'
import { materialsOn } from '../placements/placements.server'

/** Does what a run on a model asks for. */
export async function workOnModel(
  claim: MeshClaim,
  executor: Threads,
  application: string,
  signals: Signals,
): Promise<void> {
  const asked = meshRequest.parse(claim.request)
  const model = await openModel(claim.modelId)
  if (asked.do === 'lay out') return layOut(claim, model, asked.change, signals)
  if (asked.do === 'deliver') return deliverModel(claim, model, asked, executor, application, signals)
  const { cells, settings } = asked
  const { id, name, mesh, high, cage } = model
  const known = await keysOf(id)
  let [sets, missed] = [0, 0]
  await bakeModel(executor, {
    ...{ name, application, cells, settings },
    mesh: await keptMesh(mesh),
    high: high && (await keptMesh(high.sha256)),
    cage: cage && (await keptMesh(cage.sha256)),
    image: settings.transferImage === null ? null : await library.load(`sha256:${settings.transferImage}`),
    contents: { mesh, high: high?.sha256 ?? null, cage: cage?.sha256 ?? null },
    tilesOf: (part) => model.summary.parts[part]!.layouts[settings.uvSet]?.tiles ?? [],
    // What a run made before it was broken off, or another did meanwhile.
    isKnown: (place, key) => known.get(placeName(place)) === key,
    onBaked: async (data) => {
      const { place, key, baker, field, scale, missed: none, missedAt } = data
      const developing = { kind: baker.name, field, scale, ...(missedAt ? { missedAt } : {}) }
      const made = await developed(developing, signals.signal)
      const kept = await saveMeshData(claim, {
        ...{ ...place, key, made, missed: none },
        shape: meshDataShape(baker, field.width, field.height),
        record: data.record(made.sha256),
      })
      if (!kept) throw new GristError('cancelled', 'The run went to another worker or was cancelled.')
      sets++
      if (none > 0) missed++
    },
    onProgress: ({ whole, ratio, secondsLeft, ...at }) => {
      signals.onProgress(whole)
      // In steps that can be seen: pages are told of each.
      signals.onDetail({
        ...at,
        ratio: Math.round(ratio * 200) / 200,
        secondsLeft: secondsLeft === null ? null : Math.round(secondsLeft),
      })
    },
    isCancelled: signals.isCancelled,
  })
  const told = `${sets} ${sets === 1 ? 'set' : 'sets'} of mesh data made`
  await logRun(claim, `${told}${missed > 0 ? `; at ${missed} of them rays missed the high twin` : ''}.`)
  await endRun(claim, 'done')
  // Materials on it look otherwise now.
  if (sets > 0)
    for (const { id: material, head } of await materialsOn(model.id)) await enqueue('picture', material, head, {})
}

type ChangedLayout = Extract<MeshClaim['request'], { do: 'lay out' }>['change']

/** Lays a model out another way, on a thread that is ended when it is no longer wanted. */
async function layOut(claim: MeshClaim, model: ModelPage, change: ChangedLayout, signals: Signals): Promise<void> {
  const folder = await ownFolder()
  const began = Date.now()
  const watch = setInterval(() => {
    // How far the package is, it does not say: it goes by what this many triangles took elsewhere, and stays below the end.
    const likely = 500 + model.summary.triangles * (change.cure === 'unwrap' ? 0.6 : 0.1)
    const ratio = 1 - Math.exp(-(Date.now() - began) / likely)
    signals.onProgress(ratio * 0.95)
  }, 50)
  try {
    const [mesh, out] = [join(folder, 'mesh'), join(folder, 'out')]
    await writeFile(mesh, await wholeBlob(model.mesh))
    const sha256 = await onModelThreads(
      { kind: 'lay out', mesh, how: change, out },
      ({ summary }) => keepMesh(createReadStream(out), summary),
      { milliseconds: LIMITS.model.layoutMilliseconds, signal: signals.signal },
    )
    if (signals.isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
    await setMesh(model.id, sha256)
    // What is moved by a tile repeats the first; it is no tile of its own.
    if (change.cure === 'shift') await setBakeSettings(model.id, { outside: 'repeats' })
    await endRun(claim, 'done')
  } finally {
    clearInterval(watch)
    await rm(folder, { recursive: true, force: true })
  }
}
