import { deliverableChannels } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import type { EngineHost } from '#core/engine/evaluate'
import type { ImageLoader } from '#core/engine/pyramids'
import { Pyramids } from '#core/engine/pyramids'
import { pyramidPlanes } from '#core/field/pyramid'
import { KeptPatches, patchArrays } from '#core/mesh/seams/island-patches'
import type { PartLayout } from '#core/mesh/part-layout'
import type { MaterialSession } from '#core/material/session'
import { openMaterial } from '#core/material/session'
import type { BandCoders } from '#core/texture/code-band'
import type { DeliverRequest } from '#core/texture/delivery'
import { channelsOfPacking } from '#core/texture/packing'
import { registry } from '#core/nodes/registry.generated'
import { FolderAssets } from '#runtime/node/assets'
import { applicationName } from '#runtime/node/program'
import type { DeliveredFolder } from '#runtime/node/delivery-folder'
import { deliverToFolder, keptInFolder } from '#runtime/node/delivery-folder'
import { isInterrupted } from './interrupts'
import type { Threads } from '#runtime/node/threads'
import { openThreads, usualThreads } from '#runtime/node/threads'
import type { DeliveredOn, OnMesh } from './on-mesh'
import type { Options } from './options'

/** What work needs is loaded with this file; commands load it once they know what they were asked. */
export { FolderAssets, deliverToFolder, keptInFolder }

export const APPLICATION = applicationName()

/**
 * Runs `work` on an open document with threads and images at hand, on a part where --mesh names one, with the mesh data that these
 * channels take; ends the threads whatever happens.
 */
export async function withMaterial<T>(
  options: Options,
  document: MaterialDocument,
  assets: FolderAssets,
  work: (material: MaterialSession, coders: BandCoders, layout?: PartLayout) => Promise<T>,
  on: DeliveredOn = { delivery: [] },
): Promise<T> {
  const executor = openThreads(options.whole('threads', usualThreads()))
  try {
    if (options.text('mesh') === undefined) {
      const pyramids = new Pyramids(assets, executor.allocate)
      return await work(openMaterial(document, registry, { executor, pyramids }), executor)
    }
    const { onMesh } = await import('./on-mesh')
    const placed = await onMesh(options, document, executor, {
      width: Number.parseInt(options.text('size') ?? '1024', 10),
      ...on,
    })
    return await withPlaced(placed, assets, executor, (material) => work(material, executor, placed.layout))
  } finally {
    await executor.close()
  }
}

/** Runs `work` on a material that was laid onto a part, with its mesh data and images at hand; they are let go afterwards. */
export async function withPlaced<T>(
  placed: OnMesh,
  assets: FolderAssets,
  executor: Threads,
  work: (material: MaterialSession) => Promise<T>,
): Promise<T> {
  return withHosts([{ on: placed, assets }], executor, ([host]) => work(openMaterial(placed.document, registry, host!)))
}

/** Runs `work` with what evaluates each of some materials that were laid onto parts; their mesh data and images are let go afterwards. */
export async function withHosts<T>(
  placed: readonly { readonly on: OnMesh; readonly assets: FolderAssets }[],
  executor: Threads,
  work: (hosts: readonly EngineHost[]) => Promise<T>,
): Promise<T> {
  const hosts = placed.map(({ on: { data, mesh }, assets }) => {
    const images: ImageLoader = { load: async (name) => data.get(name) ?? assets.load(name) }
    const pyramids = new Pyramids(images, executor.allocate, (one) => pyramidPlanes(one).forEach(executor.free))
    const islands = new KeptPatches({ load: async () => mesh }, executor, (set) =>
      patchArrays(set).forEach(executor.free),
    )
    return { executor, pyramids, islands }
  })
  try {
    return await work(hosts)
  } finally {
    for (const { pyramids, islands } of hosts) {
      pyramids.clear()
      islands.clear()
    }
  }
}

/** What is delivered of a material. */
interface Delivered extends Pick<DeliverRequest, 'packing' | 'width' | 'dither' | 'sharpen' | 'names' | 'kept'> {
  readonly document: MaterialDocument
  readonly assets: FolderAssets
  /** What progress is told of. */
  readonly what: string
  /** Whether its images go along, and whether what is there already is kept beside it. */
  readonly images?: boolean
  readonly replace?: boolean
  readonly alone?: boolean
}

/** Makes the maps of a material into a folder, on a part where --mesh names one. Throws what delivering throws. */
export async function deliverMaterial(
  options: Options,
  { document, assets, what, images = true, replace = false, alone = false, ...request }: Delivered,
  out: string,
): Promise<DeliveredFolder> {
  const [hashes, sources] = [await assets.hashes(document), images ? await assets.sources(document) : []]
  return withMaterial(
    options,
    document,
    assets,
    (material, coders) =>
      deliverToFolder(
        material,
        {
          ...{ ...request, application: APPLICATION, assets: hashes, coders },
          budgetBytes: budgetOf(options),
          isCancelled: isInterrupted,
          onProgress: progressBar(options, what),
        },
        out,
        { images: sources, replace },
      ),
    { delivery: channelsOfPacking(request.packing, deliverableChannels(document)), alone },
  )
}

/** Most memory for fields, in bytes: --memory in MB, else 3 GB. */
export const budgetOf = (options: Options): number => options.whole('memory', 3072) * 1048576

/** A bar on stderr where that is a terminal. */
export function progressBar(options: Options, what: string): (ratio: number) => void {
  if (options.flag('quiet') || !process.stderr.isTTY) return () => {}
  const started = Date.now()
  let shown = ''
  return (ratio) => {
    const left = ratio > 0.02 ? Math.ceil(((Date.now() - started) * (1 - ratio)) / ratio / 1000) : null
    const line = ratio >= 1 ? '' : `${what} ${Math.round(ratio * 100)} %${left === null ? '' : `, ${left} s left`}`
    if (line === shown) return
    shown = line
    process.stderr.write(`\r\x1b[K${line}`)
  }
}
