import { deliverableChannels } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import type { PickedIds } from '#core/picked-ids'
import { openMaterial } from '#core/material/session'
import type { BakeSettings } from '#core/mesh/bake-settings'
import type { TileOfMesh } from '#core/mesh/tile-owners'
import { registry } from '#core/nodes/registry.generated'
import type { ChannelSource } from '#core/texture/channel-source'
import type { Packing } from '#core/texture/packing'
import { channelsOfPacking } from '#core/texture/packing'
import { wholeChannel } from '#core/texture/whole-channel'
import type { Field } from '#core/field/field'
import { tileSource } from '#core/texture/tile-source'
import type { DeliverRequest } from '#core/texture/delivery'
import type { FolderAssets } from '#runtime/node/assets'
import type { DeliveredFolder, SourceImage } from '#runtime/node/delivery-folder'
import type { Threads } from '#runtime/node/threads'
import { isInterrupted } from './interrupts'
import type { OpenModel } from './model-files'
import type { OnMesh } from './on-mesh'
import { layOnPart } from './on-mesh'
import type { Options } from './options'
import { APPLICATION, budgetOf, deliverToFolder, withHosts } from './workplace'

/** A material on a part of a model, by the part's number, or on some IDs of it, with the folder of its images. */
export interface SetMaterial {
  readonly part: number
  readonly ids?: PickedIds
  readonly document: MaterialDocument
  readonly assets: FolderAssets
}

/** Materials that share files, on the tile that they lie in. */
export interface LaidSet {
  readonly tile: TileOfMesh
  readonly materials: readonly (SetMaterial & { readonly on: OnMesh })[]
}

/** Lays materials that share files onto their parts, and bakes what they and the files of a packing read of them. Throws what baking throws. */
export async function layFileSet(
  threads: Threads,
  model: OpenModel,
  {
    path,
    settings,
    udim,
    packing,
    materials,
  }: {
    /** What the model is called in what is told. */
    readonly path: string
    readonly settings: BakeSettings
    /** The number of the tile, of parts that lie in several. */
    readonly udim?: number | undefined
    readonly packing: Packing
    readonly materials: readonly SetMaterial[]
  },
): Promise<LaidSet> {
  const laid: LaidSet['materials'][number][] = []
  for (const one of materials) {
    const { part, ids, document } = one
    const delivery = channelsOfPacking(packing, deliverableChannels(document))
    const kinds = ids ? [ids.kind] : []
    laid.push({
      ...one,
      on: await layOnPart(threads, { path, model, part, udim, settings, document, delivery, kinds }),
    })
  }
  const tile = { mesh: model.mesh, uvSet: settings.uvSet, ...(udim === undefined ? {} : { udim }) }
  return { tile, materials: laid }
}

/** Makes the maps of materials that share files into a folder. Throws what delivering throws. */
export async function deliverFileSet(
  options: Options,
  executor: Threads,
  { tile, materials }: LaidSet,
  request: Pick<DeliverRequest, 'packing' | 'width' | 'dither' | 'names' | 'onProgress'> &
    Partial<Pick<DeliverRequest, 'sharpen'>>,
  out: string,
  { images: isWithImages = true, replace = false } = {},
): Promise<DeliveredFolder> {
  const hashes: Record<string, string> = {}
  const images: SourceImage[] = []
  for (const { assets, document } of materials) {
    Object.assign(hashes, await assets.hashes(document))
    if (isWithImages) images.push(...(await assets.sources(document)))
  }
  return withSource(executor, { tile, materials }, (source) =>
    deliverToFolder(
      source,
      {
        ...{ ...request, application: APPLICATION, assets: hashes, coders: executor },
        ...{ budgetBytes: budgetOf(options), isCancelled: isInterrupted },
      },
      out,
      { images, replace },
    ),
  )
}

/** One channel of materials that share files, all of it. Throws reference-unknown, and what evaluating throws. */
export const channelOfFileSet = (
  options: Options,
  executor: Threads,
  laid: LaidSet,
  id: string,
  width: number,
): Promise<Field> =>
  withSource(executor, laid, (source) =>
    wholeChannel(source, id, { width, budgetBytes: budgetOf(options), isCancelled: isInterrupted }),
  )

const withSource = <T>(
  executor: Threads,
  { tile, materials }: LaidSet,
  work: (source: ChannelSource) => Promise<T>,
): Promise<T> =>
  withHosts(materials, executor, (hosts) => {
    const placed = materials.map(({ part, ids, on }) => ({ part, ...(ids ? { ids } : {}), document: on.document }))
    return work(tileSource(tile, placed, (document, k) => openMaterial(document, registry, hosts[k]!)))
  })
