import type { IslandPatches } from '../engine/evaluate'
import type { FieldCache } from '../engine/field-cache'
import { localExecutor } from '../engine/local-executor'
import type { ImageLoader } from '../engine/pyramids'
import { Pyramids } from '../engine/pyramids'
import type { Executor } from '../engine/pass'
import { GristError } from '../errors'
import type { MaterialDocument } from '../document/document'
import type { MaterialSession } from '../material/session'
import { openMaterial } from '../material/session'
import { registry } from '../nodes/registry.generated'

const noImages: ImageLoader = {
  load: async () => {
    throw new GristError('asset-missing', 'There are no images here.')
  },
}

/** An open document: on this thread and without images, unless others are given. */
export const materialHere = (
  document: MaterialDocument,
  {
    executor = localExecutor(registry),
    images = noImages,
    cache,
    islands,
  }: { executor?: Executor; images?: ImageLoader; cache?: FieldCache; islands?: IslandPatches } = {},
): MaterialSession =>
  openMaterial(document, registry, { executor, cache, islands, pyramids: new Pyramids(images, executor.allocate) })
