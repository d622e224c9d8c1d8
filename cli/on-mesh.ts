import type { Channel } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import type { PartFacts } from '#core/document/domain'
import { onPart, partOf } from '#core/document/domain'
import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'
import { kindsRead } from '#core/graph/kinds-read'
import type { MeshDataKind } from '#core/graph/mesh-data-kinds'
import type { BakeSettings } from '#core/mesh/bake-settings'
import { BAKE_SIZES, STANDARD_SETTINGS } from '#core/mesh/bake-settings'
import { bakedAs, settingsOfBaked } from '#core/mesh/mesh-data-record'
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
import { FIRST_TILE } from '#core/document/domain'
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
  /** Kinds that are needed besides. */
  readonly kinds?: readonly MeshDataKind[]
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
  // One that is made again lay on a part of it before.
  const before = partOf(document)
  const opened = await modelOf(options, width, before)
  const { mesh } = opened.model
  const named = options.text('part')
  const part = named === undefined && before && before.part < mesh.parts.length ? before.part : partNamed(mesh, named)
  const udim = tileNamed(tilesOfPart(mesh, part, opened.settings), options.text('tile') ?? before?.udim?.toString())
  return layOnPart(threads, { ...opened, part, udim, document, ...on })
}

/**
 * The model that --mesh names, with --high and --cage, and how its mesh data are baked for a width; in the UV set of what lay on it before
 * where --uv-set names none. Throws `usage`, and what reading throws.
 */
export async function modelOf(
  options: Options,
  width: number,
  before: Pick<PartFacts, 'uvSet'> | null = null,
): Promise<Pick<LaidOn, 'path' | 'model' | 'settings'>> {
  const [path, high, cage] = [options.need('mesh'), options.text('high'), options.text('cage')]
  const unit = options.number('unit', 1, [1e-6, 1e6])
  const settings = {
    ...STANDARD_SETTINGS,
    ...{ size: sizeFor(width), uvSet: options.whole('uv-set', (before?.uvSet ?? 0) + 1) - 1 },
    samples: options.whole('samples', STANDARD_SETTINGS.samples) as typeof STANDARD_SETTINGS.samples,
    rays: options.whole('rays', STANDARD_SETTINGS.rays),
  }
  return { path, model: await openModelFiles({ model: path, high, cage, unit }), settings }
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
  /** The number of the tile, of a part that lies in several. */
  readonly udim?: number | undefined
  readonly settings: BakeSettings
  readonly document: MaterialDocument
}

/** Lays a material onto a part, and bakes what it reads of it. Throws `usage`, and what baking throws. */
export async function layOnPart(
  threads: Threads,
  { path, model, part, udim, settings, document, delivery, alone, kinds: more = [] }: LaidOn,
): Promise<OnMesh> {
  if (document.domain.kind !== 'part')
    throw new GristError('usage', `"${document.name}" is for tiles: leave out --mesh, or make it for parts.`)
  const { mesh } = model
  const { uvSet } = settings
  const own = mesh.parts[part]!
  const able = kindsFor({ high: model.high !== null, colours: mesh.colours !== null, texture: false })
  const wanted = [...kindsRead(document, registry, { under: !alone, delivery }), ...more]
  const kinds = [...new Set(wanted)].filter((kind) => able.some(({ name }) => name === kind))
  const data = new Map<string, RasterImage>()
  const baked: NonNullable<PartFacts['baked']> = {}
  const names: Partial<Record<MeshDataKind, string>> = {}
  const tile = udim ?? FIRST_TILE
  let missed: number | undefined
  for (const group of asBefore(document, kinds, settings))
    await bakeModel(threads, {
      ...{ name: path, application: applicationName(), ...model, image: null },
      settings: group.settings,
      cells: group.kinds.map((kind) => ({ part, kind })),
      tilesOf: () => (own.uvSets > uvSet ? [tile] : []),
      isKnown: () => false,
      onBaked: async ({ place, key, baker, field, missed: none, record }) => {
        const kind = place.kind as MeshDataKind
        if (kind === 'normal' && model.high !== null) missed = none / (field.width * field.height)
        names[kind] = `mesh-data:${key}`
        baked[kind] = bakedAs(record(key))
        const bytes = meshDataBytes(baker, field)
        data.set(`mesh-data:${key}`, imageOfMeshData(kind, meshDataShape(baker, field.width, field.height), bytes))
      },
      onProgress: () => {},
      isCancelled: isInterrupted,
    })
  const facts = partFactsOf({
    ...{ summary: meshSummary(mesh), mesh: model.contents.mesh, part, uvSet, name: own.name },
    ...(udim === undefined ? {} : { udim }),
    ...{ data: names as Record<string, string>, baked },
    ...(missed === undefined ? {} : { missed }),
  })
  const layout = own.uvSets > uvSet ? partLayoutOf(mesh, part, uvSet, udim) : undefined
  return { document: onPart(document, facts), data, mesh, layout }
}

/** Kinds with the settings that each is baked with: those of its record where a document has one, of a delivery that is made again. */
function asBefore(
  document: MaterialDocument,
  kinds: readonly string[],
  settings: BakeSettings,
): { readonly settings: BakeSettings; readonly kinds: readonly string[] }[] {
  const before = partOf(document)?.baked ?? {}
  const told = Object.fromEntries(Object.entries(before).filter(([kind]) => kinds.includes(kind)))
  const rest = kinds.filter((kind) => !(kind in told))
  return [...settingsOfBaked(told), ...(rest.length > 0 ? [{ settings, kinds: rest }] : [])]
}

/** The tiles of UVs that a part lies in. */
export function tilesOfPart(mesh: Mesh, part: number, settings: BakeSettings): readonly number[] {
  const own = mesh.parts[part]!
  const { uvSet, size } = settings
  return tilesOf(own.uvSets > uvSet ? layoutFacts(layoutOf(mesh, own, uvSet), size).tiles : [], settings)
}

/** The tile of a part that is meant; undefined where it lies in the first alone. */
function tileNamed(tiles: readonly number[], name: string | undefined): number | undefined {
  const udim = name === undefined ? tiles[0]! : Number(name)
  if (!tiles.includes(udim) || (name === undefined && tiles.length > 1))
    throw new GristError('usage', `Which tile of its UVs? --tile takes one of: ${tiles.join(', ')}.`)
  return tiles.length === 1 && udim === FIRST_TILE ? undefined : udim
}

export function partNamed(mesh: Mesh, name: string | undefined): number {
  if (name === undefined && mesh.parts.length === 1) return 0
  const found = mesh.parts.findIndex((part) => part.name === name)
  if (found >= 0) return found
  const all = mesh.parts.map((part) => part.name).join(', ')
  throw new GristError(
    'usage',
    name === undefined ? `Which part? --part takes one of: ${all}.` : `There is no part "${name}". There are: ${all}.`,
  )
}
