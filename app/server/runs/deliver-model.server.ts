import { rm } from 'node:fs/promises'
import type { EngineHost } from '#core/engine/evaluate'
import { GristError } from '#core/errors'
import type { TileOfMesh } from '#core/mesh/tile-owners'
import { LIMITS } from '#core/limits'
import { openMaterial } from '#core/material/session'
import { registry } from '#core/nodes/registry.generated'
import type { KeptFile, MapTime } from '#core/texture/kept-file'
import type { ChannelSource } from '#core/texture/channel-source'
import { wholeChannel } from '#core/texture/whole-channel'
import { tileSource } from '#core/texture/tile-source'
import type { RecordNames } from '#core/texture/record'
import type { FileSet, ModelRecord } from '#runtime/node/deliver-parts'
import { deliverParts, safeName, setFindings } from '#runtime/node/deliver-parts'
import { deliverToFolder } from '#runtime/node/delivery-folder'
import { ownFolder } from '#runtime/node/own-folders'
import type { Threads } from '#runtime/node/threads'
import type { ModelPage } from '../../contracts/model'
import type { MeshRequest } from '../../contracts/run'
import { assetHashes } from '../assets/assets.server'
import { database } from '../database/database.server'
import { keptFilesOfModel } from '../deliveries/delivery-files.server'
import { zipOf } from '../deliveries/zip.server'
import { countModelDeliveries } from '../models/model-deliveries.server'
import { keptMesh } from '../models/models.server'
import { dressedSets } from '../placements/placements.server'
import { checkQuota, putBlob } from '../storage/blobs.server'
import type { Signals } from './bake.server'
import { sourceImages, withHost } from './bake.server'
import type { MeshClaim } from './runs.server'
import { logRun } from './runs.server'

type KeptFiles = ReadonlyMap<string, KeptFile>
type Asked = Extract<MeshRequest, { do: 'deliver' }>

/**
 * Makes the maps of all parts that have a material, each in a folder for each file set, and the model that wears them; keeps all of it as one
 * ZIP. Throws mesh-data-missing where nothing lies on the model, and what making maps throws, with the part named.
 */
export async function deliverModel(
  claim: MeshClaim,
  model: ModelPage,
  asked: Asked,
  executor: Threads,
  application: string,
  signals: Signals,
): Promise<void> {
  const sets = await dressedSets(model)
  if (sets.length === 0)
    throw new GristError('mesh-data-missing', 'No part of this model has a material yet. Put one on a part first.')
  const names = { project: model.project.name, delivery: (await countModelDeliveries(model.id)) + 1 }
  const folder = await ownFolder()
  try {
    const kept = await keptFilesOfModel(model.id)
    const mesh = await keptMesh(model.mesh)
    const { uvSet } = model.settings
    const tileOf = ({ udim }: FileSet): TileOfMesh => ({ mesh, uvSet, ...(udim === undefined ? {} : { udim }) })
    const { record, files } = await deliverParts(
      {
        ...{ name: model.name, mesh, meshHash: model.mesh, uvSet },
        ...{ packing: asked.packing, application },
        vertices: asked.vertices,
        sets: sets.map((set) => ({
          ...set,
          channel: (id) =>
            withHost(executor, (host) =>
              wholeChannel(sourceOf(set, tileOf(set), host), id, {
                ...{ width: asked.width, budgetBytes: LIMITS.job.fieldBytes },
                isCancelled: signals.isCancelled,
              }),
            ),
          deliver: (packing, to, onProgress) => {
            const tile = tileOf(set)
            return mapsOf(set, tile, { ...asked, packing, names, kept }, to, executor, application, {
              isCancelled: signals.isCancelled,
              onProgress,
            })
          },
        })),
        onProgress: (ratio) => signals.onProgress(ratio * 0.95),
        onSet: (name, { times }) => logRun(claim, `${name}: ${mapsInWords(times)}.`),
      },
      folder,
    )
    for (const words of setFindings(record)) await logRun(claim, words)
    await keep(claim, model, asked, record, folder, files)
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

async function keep(
  claim: MeshClaim,
  model: ModelPage,
  { packing, width }: Asked,
  record: ModelRecord,
  folder: string,
  names: readonly string[],
): Promise<void> {
  await database().transaction(async (transaction) => {
    await checkQuota(transaction, 0)
    const zip = await putBlob(transaction, zipOf(folder, names))
    const ended = await transaction.raw<{ rows: unknown[] }>(
      `update runs set state = 'done', progress = 1, ended_at = now(), changed_at = now()
       where id = ? and attempt = ? and state = 'running' and not cancel_asked returning id`,
      [claim.id, claim.attempt],
    )
    if (ended.rows.length === 0) throw new GristError('cancelled', 'The run went to another worker or was cancelled.')
    await transaction('model_deliveries').insert({
      run_id: claim.id,
      model_id: model.id,
      name: `${safeName(model.name)}-${packing.name}-${width}`,
      record: JSON.stringify({ ...record, packing: packing.title, width }),
      zip_sha256: zip.sha256,
    })
  })
}

const sourceOf = ({ materials }: FileSet, tile: TileOfMesh, host: EngineHost): ChannelSource =>
  tileSource(tile, materials, (document) => openMaterial(document, registry, host))

async function mapsOf(
  set: FileSet,
  tile: TileOfMesh,
  { packing, width, dither, names, kept }: Asked & { readonly names: RecordNames; readonly kept: KeptFiles },
  folder: string,
  executor: Threads,
  application: string,
  signals: Pick<Signals, 'isCancelled' | 'onProgress'>,
) {
  const assets = Object.assign({}, ...set.materials.map(({ document }) => assetHashes(document))) as Record<
    string,
    string
  >
  const images = await sourceImages(Object.values(assets))
  return withHost(executor, (host) =>
    deliverToFolder(
      sourceOf(set, tile, host),
      {
        ...{ packing, width, dither, sharpen: 0, names, kept, application, assets },
        budgetBytes: LIMITS.job.fieldBytes,
        coders: executor,
        ...signals,
      },
      folder,
      { images },
    ),
  )
}

/** Each map with its time, and which are as they were made before. */
const mapsInWords = (times: readonly MapTime[]): string =>
  times.map(({ map, seconds, kept }) => (kept ? `${map} kept` : `${map} ${seconds.toFixed(1)} s`)).join(', ')
