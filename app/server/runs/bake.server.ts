import { metresOf } from '#core/document/domain'
import { mkdir, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { tileSize } from '#core/field/field'
import type { ImagePyramid } from '#core/field/pyramid'
import { pyramidPlanes } from '#core/field/pyramid'
import { channelOutput } from '#core/document/address'
import type { EngineHost } from '#core/engine/evaluate'
import { Pyramids } from '#core/engine/pyramids'
import type { Executor } from '#core/engine/pass'
import type { BandCoders } from '#core/texture/code-band'
import { GristError } from '#core/errors'
import { registry } from '#core/nodes/registry.generated'
import { openMaterial } from '#core/material/session'
import { LIMITS } from '#core/limits'
import { KeptPatches, patchArrays } from '#core/mesh/seams/island-patches'
import { LIT_CHANNELS, litPicture } from '#core/preview/lit-thumbnail'
import type { MapTime } from '#core/texture/kept-file'
import type { DeliveryRecord } from '#core/texture/record'
import { withOwnSettings } from '#core/document/own-settings'
import { isSameFile } from '#core/texture/record'
import type { SourceImage } from '#runtime/node/delivery-folder'
import { deliverToFolder } from '#runtime/node/delivery-folder'
import type { FindingWords } from '#core/checks/check'
import { checkDelivery } from '#runtime/node/check-delivery'
import { ownFolder } from '#runtime/node/own-folders'
import { keptMesh } from '../models/models.server'
import { engineImages } from '../placements/engine-images.server'
import { asPlaced } from '../placements/placements.server'
import { assetHashes, findAsset } from '../assets/assets.server'
import { checkQuota, putBlob, readBlob } from '../storage/blobs.server'
import { database } from '../database/database.server'
import { keptFilesOf } from '../deliveries/delivery-files.server'
import { findDelivery, saveDelivery } from '../deliveries/deliveries.server'
import { documentAt } from '../documents/revisions.server'
import type { BakeClaim } from './runs.server'
import { endRun, logRun } from './runs.server'
import type { BakeRequest, MeshDetail } from '../../contracts/run'
import { bakeRequest } from '../../contracts/run'
import { zipOf } from '../deliveries/zip.server'

/** How a run's work hears that it is no longer wanted, and tells how far it is. */
export interface Signals {
  readonly isCancelled: () => boolean
  /** The same, for what is ended from outside. */
  readonly signal: AbortSignal
  readonly onProgress: (ratio: number) => void
  readonly onDetail: (detail: MeshDetail) => void
}

/** Bakes a revision into files, packs them into a ZIP in the database, and keeps it as a delivery. */
export async function bake(
  claim: BakeClaim,
  executor: Executor & BandCoders,
  application: string,
  signals: Signals,
): Promise<void> {
  const {
    packing,
    width,
    dither,
    sharpen,
    own,
    on,
    names: inNames,
    compareWith,
    checks: isChecked,
    replaced = [],
  } = bakeRequest.parse(claim.request)
  const kept = await asPlaced(claim.documentId, await documentAt(claim.documentId, claim.revision), on)
  const document = withOwnSettings(kept, own)
  const assets = assetHashes(document)
  const folder = await ownFolder()
  try {
    const images = await sourceImages(Object.values(assets))
    // What is made again to be compared is made again whole.
    const before = compareWith ? undefined : await keptFilesOf(claim.documentId)
    const { record, report, names, times } = await withHost(executor, (host) =>
      deliverToFolder(
        openMaterial(document, registry, host),
        {
          packing,
          width,
          dither,
          sharpen,
          names: inNames,
          application,
          assets,
          budgetBytes: LIMITS.job.fieldBytes,
          isCancelled: signals.isCancelled,
          coders: executor,
          kept: before,
          onProgress: (ratio) => signals.onProgress(ratio * 0.97),
        },
        folder,
        { images },
      ),
    )
    await logRun(
      claim,
      `${keptInWords(times)}${report.evaluated.length} steps in ${report.bands} ${report.bands === 1 ? 'piece' : 'bands'}, fields took ${Math.ceil(report.peakBytes / 1048576)} MB at most.`,
    )
    if (compareWith) return await endRun(claim, 'done', { result: await compared(compareWith, record) })
    const findings = isChecked ? await foundIn(folder, record, signals) : undefined
    const bytes = record.files.reduce((sum, file) => sum + file.bytes, 0)
    const whatWas = await writeReplaced(folder, replaced)
    const zip = await database().transaction(async (transaction) => {
      await checkQuota(transaction, bytes)
      return putBlob(transaction, zipOf(folder, [...names, ...whatWas]))
    })
    const name = `${document.name.replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^[.-]+/, '') || 'material'}-${packing.name}-${width}`
    if (!(await saveDelivery(claim, name, record, zip.sha256, { times, own, findings })))
      throw new GristError('cancelled', 'The run went to another worker or was cancelled.')
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

/** Sets larger than this are not checked here: their planes would take too much memory beside the bake. */
const CHECKED_TEXELS = 4096 * 4096

/** What is to be said of files that were made, where they are not too large. */
async function foundIn(
  folder: string,
  { width, height }: DeliveryRecord,
  { isCancelled }: Signals,
): Promise<readonly FindingWords[] | undefined> {
  if (width * height > CHECKED_TEXELS) return undefined
  const stop = new AbortController()
  const watch = setInterval(() => isCancelled() && stop.abort(), 100)
  try {
    return await checkDelivery(folder, stop.signal)
  } finally {
    clearInterval(watch)
  }
}

const keptInWords = (times: readonly MapTime[]): string => {
  const kept = times.filter((time) => time.kept).length
  return kept === 0 ? '' : `${kept} of ${times.length} files are as they were made before. `
}

/** What a run evaluates with; its images are let go at its end. */
export async function withHost<T>(executor: Executor, work: (host: EngineHost) => Promise<T>): Promise<T> {
  const letGo = (pyramid: ImagePyramid): void => pyramidPlanes(pyramid).forEach(executor.free)
  const pyramids = new Pyramids(engineImages, executor.allocate, letGo)
  const islands = new KeptPatches({ load: keptMesh }, executor, (set) => patchArrays(set).forEach(executor.free))
  try {
    return await work({ executor, pyramids, islands })
  } finally {
    pyramids.clear()
    islands.clear()
  }
}

/** Puts what files replace into a folder beside them, as it came. Gives their names. */
async function writeReplaced(folder: string, replaced: NonNullable<BakeRequest['replaced']>): Promise<string[]> {
  if (replaced.length > 0) await mkdir(join(folder, 'before'))
  const names: string[] = []
  for (const { name, sha256 } of replaced) {
    if (!(await findAsset(sha256)))
      throw new GristError('asset-missing', `The image ${name} is not in the library any more.`)
    names.push(`before/${name}`)
    await writeFile(join(folder, 'before', name), readBlob(sha256))
  }
  return names
}

/** The images that a bake uses, as they came. */
export async function sourceImages(hashes: readonly string[]): Promise<SourceImage[]> {
  const images: SourceImage[] = []
  for (const sha256 of new Set(hashes)) {
    const asset = await findAsset(sha256)
    if (!asset) throw new GristError('asset-missing', `The image sha256:${sha256} is not in the library any more.`)
    images.push({ sha256, name: asset.name, write: (path) => writeFile(path, readBlob(sha256)) })
  }
  return images
}

async function compared(deliveryId: string, again: DeliveryRecord): Promise<string> {
  const { record } = await findDelivery(deliveryId)
  const other = record.files.filter(
    (file) =>
      !isSameFile(
        file,
        again.files.find(({ name }) => name === file.name),
      ),
  )
  return other.length === 0
    ? `Made again: all ${record.files.length} files hold the same, texel for texel.`
    : `Made again: ${other.map(({ name }) => name).join(', ')} ${other.length === 1 ? 'differs' : 'differ'}.`
}

const PICTURE = 320

/** The lit picture of a document, for cards. */
export async function picture(claim: BakeClaim, executor: Executor, signals: Signals): Promise<void> {
  const document = await asPlaced(claim.documentId, await documentAt(claim.documentId, claim.revision))
  const { fields } = await withHost(executor, (host) =>
    openMaterial(document, registry, host).evaluatePartial({
      outputs: LIT_CHANNELS.map(channelOutput),
      width: fittingWidth(metresOf(document)),
      isCancelled: signals.isCancelled,
    }),
  )
  const png = Buffer.from(litPicture(fields))
  await database().raw(
    `insert into pictures (document_id, revision, png) values (?, ?, ?)
     on conflict (document_id) do update set revision = excluded.revision, png = excluded.png where pictures.revision <= excluded.revision`,
    [claim.documentId, claim.revision, png],
  )
  await endRun(claim, 'done')
}

/** The width nearest to the picture's at which the tile's height is whole. */
function fittingWidth(metres: readonly [number, number]): number {
  for (let width = PICTURE; width > PICTURE / 2; width--) {
    try {
      tileSize(width, metres)
      return width
    } catch (error) {
      if (!(error instanceof GristError)) throw error
    }
  }
  return PICTURE
}
