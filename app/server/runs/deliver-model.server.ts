import { readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { MaterialDocument } from '#core/document/document'
import { GristError } from '#core/errors'
import { hashBytes } from '#core/hash'
import { LIMITS } from '#core/limits'
import { openMaterial } from '#core/material/session'
import type { Dress } from '#core/mesh/write-glb'
import { writeGlb } from '#core/mesh/write-glb'
import { registry } from '#core/nodes/registry.generated'
import type { Packing } from '#core/texture/packing'
import { packings } from '#core/texture/packings/packings.generated'
import type { KeptFile, MapTime } from '#core/texture/kept-file'
import type { DeliveryRecord, RecordNames } from '#core/texture/record'
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
import { dressedParts } from '../placements/placements.server'
import { checkQuota, putBlob } from '../storage/blobs.server'
import type { Signals } from './bake.server'
import { sourceImages, withHost } from './bake.server'
import type { MeshClaim } from './runs.server'
import { logRun } from './runs.server'

/** The packing whose files go into the model itself. */
const WORN = packings.find(({ name }) => name === 'occlusion-rough-metal-y-up')!
const MODEL_NAME = 'model.glb'
const RECORD_NAME = 'record.json'

type KeptFiles = ReadonlyMap<string, KeptFile>
type Asked = Extract<MeshRequest, { do: 'deliver' }>

/** A part's maps as they lie in its folder. */
interface Delivered {
  readonly part: number
  readonly folder: string
  readonly record: DeliveryRecord
  readonly names: readonly string[]
}

/**
 * Makes the maps of all parts that have a material, each in a folder of its own, and the model that wears them; keeps all of it as one
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
  const dressed = await dressedParts(model)
  if (dressed.length === 0)
    throw new GristError('mesh-data-missing', 'No part of this model has a material yet. Put one on a part first.')
  const names = { project: model.project.name, delivery: (await countModelDeliveries(model.id)) + 1 }
  const folder = await ownFolder()
  const worn = await ownFolder()
  try {
    const delivered: Delivered[] = []
    const kept = await keptFilesOfModel(model.id)
    const dresses = new Map<number, Dress>()
    const isWorn = asked.packing.name === WORN.name
    const steps = dressed.length * (isWorn ? 1 : 2)
    let step = 0
    const onProgress = (ratio: number): void => signals.onProgress(((step + ratio) / steps) * 0.95)
    for (const { part, document } of dressed) {
      const into = folderName(
        model,
        part,
        dressed.map((one) => one.part),
      )
      const make = async (packing: Packing, to: string) => {
        const made = await mapsOf(document, { ...asked, packing, names, kept }, to, executor, application, {
          isCancelled: signals.isCancelled,
          onProgress,
        }).catch((error: unknown) => {
          throw error instanceof GristError ? error.at({ part: model.summary.parts[part]!.name }) : error
        })
        step++
        return made
      }
      const own = await make(asked.packing, join(folder, into))
      delivered.push({ part, folder: into, record: own.record, names: own.names })
      const [at, record] = isWorn
        ? [join(folder, into), own.record]
        : [join(worn, into), (await make(WORN, join(worn, into))).record]
      dresses.set(part, await dressOf(document, record, at))
      await logRun(claim, `${model.summary.parts[part]!.name}: ${mapsInWords(own.times)} of ${document.name}.`)
    }
    const mesh = await keptMesh(model.mesh)
    const glb = await writeGlb(mesh, { dresses, uvSet: model.settings.uvSet })
    await writeFile(join(folder, MODEL_NAME), glb)
    const record = {
      format: 'amber-grist/model-record',
      version: 1,
      application,
      model: { name: model.name, mesh: model.mesh, uvSet: model.settings.uvSet },
      file: { name: MODEL_NAME, bytes: glb.length, sha256: hashBytes(glb) },
      parts: delivered.map((one) => ({
        part: one.part,
        name: model.summary.parts[one.part]!.name,
        folder: one.folder,
        material: one.record.document.name,
        record: `${one.folder}/${RECORD_NAME}`,
        files: one.record.files,
      })),
    }
    await writeFile(join(folder, RECORD_NAME), `${JSON.stringify(record, null, 2)}\n`)
    const files = [
      MODEL_NAME,
      RECORD_NAME,
      ...delivered.flatMap((one) => one.names.map((name) => `${one.folder}/${name}`)),
    ]
    await keep(claim, model, asked, record, folder, files)
  } finally {
    await rm(folder, { recursive: true, force: true })
    await rm(worn, { recursive: true, force: true })
  }
}

async function keep(
  claim: MeshClaim,
  model: ModelPage,
  { packing, width }: Asked,
  record: { readonly parts: readonly unknown[] },
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

async function mapsOf(
  document: MaterialDocument,
  { packing, width, dither, names, kept }: Asked & { readonly names: RecordNames; readonly kept: KeptFiles },
  folder: string,
  executor: Threads,
  application: string,
  signals: Pick<Signals, 'isCancelled' | 'onProgress'>,
) {
  const assets = assetHashes(document)
  const images = await sourceImages(Object.values(assets))
  return withHost(executor, (host) =>
    deliverToFolder(
      openMaterial(document, registry, host),
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

/** The files of a part as the model wears them. */
async function dressOf(document: MaterialDocument, { files }: DeliveryRecord, folder: string): Promise<Dress> {
  const file = (map: string) => files.find((one) => one.map === map)
  const bytes = async (map: string): Promise<Uint8Array | undefined> => {
    const found = file(map)
    return found && readFile(join(folder, found.name))
  }
  const shows = (map: string): boolean => (file(map)?.slots ?? []).some(({ max }) => max > 0)
  const opacity = file('colour')?.slots.find(({ channel }) => channel === 'opacity')
  return {
    material: document.name,
    colour: await bytes('colour'),
    normal: await bytes('normal'),
    occlusionRoughMetal: await bytes('occlusion-rough-metal'),
    ...(shows('emission') ? { emission: await bytes('emission') } : {}),
    emissionStrength: document.emissionStrength,
    surface: document.surface,
    hasOpacity: opacity !== undefined && opacity.min < 1,
  }
}

/** Each map with its time, and which are as they were made before. */
const mapsInWords = (times: readonly MapTime[]): string =>
  times.map(({ map, seconds, kept }) => (kept ? `${map} kept` : `${map} ${seconds.toFixed(1)} s`)).join(', ')

const safeName = (name: string): string => name.replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^[.-]+/, '') || 'part'

/** The folder of a part: its name, with its number where another has the same. */
function folderName({ summary }: ModelPage, part: number, parts: readonly number[]): string {
  const name = safeName(summary.parts[part]!.name)
  const twice = parts.some((other) => other !== part && safeName(summary.parts[other]!.name) === name)
  return twice || name === MODEL_NAME || name === RECORD_NAME ? `${name}-${part + 1}` : name
}
