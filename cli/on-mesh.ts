import type { Channel } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { onPart } from '#core/document/domain'
import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'
import { kindsRead } from '#core/graph/kinds-read'
import type { MeshDataKind } from '#core/graph/mesh-data-kinds'
import type { BakeSettings } from '#core/mesh/bake-settings'
import { BAKE_SIZES, STANDARD_SETTINGS } from '#core/mesh/bake-settings'
import { kindsFor, tilesOf } from '#core/mesh/mesh-data'
import { imageOfMeshData, meshDataBytes, meshDataShape } from '#core/mesh/mesh-data-raster'
import { layoutFacts } from '#core/mesh/layout-facts'
import { layoutOf } from '#core/mesh/layout'
import type { PartLayout } from '#core/mesh/part-layout'
import { partLayoutOf } from '#core/mesh/part-layout'
import { partFactsOf } from '#core/mesh/part-facts'
import { meshSummary } from '#core/mesh/mesh-summary'
import type { Mesh } from '#core/mesh/mesh'
import { registry } from '#core/nodes/registry.generated'
import { bakeModel } from '#runtime/node/bake-model'
import { applicationName } from '#runtime/node/program'
import type { Threads } from '#runtime/node/threads'
import { isInterrupted } from './interrupts'
import type { OpenModel } from './model-files'
import { openModelFiles } from './model-files'
import type { Options } from './options'

/** A material as it lies on a part of a mesh file, with the mesh data that it reads. */
export interface OnMesh {
  readonly document: MaterialDocument
  /** Mesh data by the names that the document has for them. */
  readonly data: ReadonlyMap<string, RasterImage>
  readonly mesh: Mesh
  /** What its checks are about; absent where the part has no such UVs. */
  readonly layout: PartLayout | undefined
}

/** What is made of a material on a part. */
export interface DeliveredOn {
  readonly delivery: readonly Channel[]
  /** Its channels are all there is: they do not lie on what is baked of the part's form. */
  readonly alone?: boolean
}

/**
 * Lays a material for parts onto a part of a mesh (--mesh, --part, with --high and --cage), and bakes what it and these channels of it
 * read of the part, as wide as the smallest size that holds `width`. Throws `usage`, and what reading and baking throw.
 */
export async function onMesh(
  options: Options,
  document: MaterialDocument,
  threads: Threads,
  { width, ...on }: { readonly width: number } & DeliveredOn,
): Promise<OnMesh> {
  const [path, high, cage] = [options.need('mesh'), options.text('high'), options.text('cage')]
  const unit = options.number('unit', 1, [1e-6, 1e6])
  const model = await openModelFiles({ model: path, high, cage, unit })
  const settings = {
    ...STANDARD_SETTINGS,
    ...{ size: sizeFor(width), uvSet: options.whole('uv-set', 1) - 1 },
    samples: options.whole('samples', STANDARD_SETTINGS.samples) as typeof STANDARD_SETTINGS.samples,
    rays: options.whole('rays', STANDARD_SETTINGS.rays),
  }
  return layOnPart(threads, {
    path,
    model,
    part: partNamed(model.mesh, options.text('part')),
    settings,
    document,
    ...on,
  })
}

/** The smallest size that mesh data are baked at and that holds a width. */
export const sizeFor = (width: number): BakeSettings['size'] =>
  BAKE_SIZES.find((one) => one >= width) ?? BAKE_SIZES.at(-1)!

/** A material, and the part of a model that it is laid onto. */
interface LaidOn extends DeliveredOn {
  /** What the model is called in what is told. */
  readonly path: string
  readonly model: OpenModel
  readonly part: number
  readonly settings: BakeSettings
  readonly document: MaterialDocument
}

/** Lays a material onto a part, and bakes what it reads of it. Throws `usage`, and what baking throws. */
export async function layOnPart(
  threads: Threads,
  { path, model, part, settings, document, delivery, alone }: LaidOn,
): Promise<OnMesh> {
  if (document.domain.kind !== 'part')
    throw new GristError('usage', `"${document.name}" is for tiles: leave out --mesh, or make it for parts.`)
  const { mesh } = model
  const { size, uvSet } = settings
  const own = mesh.parts[part]!
  const able = kindsFor({ high: model.high !== null, colours: mesh.colours !== null, texture: false })
  const kinds = kindsRead(document, registry, { under: !alone, delivery }).filter((kind) =>
    able.some(({ name }) => name === kind),
  )
  const data = new Map<string, RasterImage>()
  const names: Partial<Record<MeshDataKind, string>> = {}
  let missed: number | undefined
  await bakeModel(threads, {
    ...{ name: path, application: applicationName(), settings, ...model, image: null },
    cells: kinds.map((kind) => ({ part, kind })),
    tilesOf: () =>
      own.uvSets > uvSet ? tilesOf(layoutFacts(layoutOf(mesh, own, uvSet), size).tiles, settings).slice(0, 1) : [],
    isKnown: () => false,
    onBaked: async ({ place, key, baker, field, missed: none }) => {
      const kind = place.kind as MeshDataKind
      if (kind === 'normal' && model.high !== null) missed = none / (field.width * field.height)
      names[kind] = `mesh-data:${key}`
      const bytes = meshDataBytes(baker, field)
      data.set(`mesh-data:${key}`, imageOfMeshData(kind, meshDataShape(baker, field.width, field.height), bytes))
    },
    onProgress: () => {},
    isCancelled: isInterrupted,
  })
  const facts = partFactsOf({
    ...{ summary: meshSummary(mesh), mesh: model.contents.mesh, part, uvSet, name: own.name },
    data: names as Record<string, string>,
    ...(missed === undefined ? {} : { missed }),
  })
  const layout = own.uvSets > uvSet ? partLayoutOf(mesh, part, uvSet) : undefined
  return { document: onPart(document, facts), data, mesh, layout }
}

function partNamed(mesh: Mesh, name: string | undefined): number {
  if (name === undefined && mesh.parts.length === 1) return 0
  const found = mesh.parts.findIndex((part) => part.name === name)
  if (found >= 0) return found
  const all = mesh.parts.map((part) => part.name).join(', ')
  throw new GristError(
    'usage',
    name === undefined ? `Which part? --part takes one of: ${all}.` : `There is no part "${name}". There are: ${all}.`,
  )
}
