import { readFile, writeFile } from 'node:fs/promises'
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import type { MaterialDocument } from '#core/document/document'
import { deliverableChannels } from '#core/document/channels'
import { parseDocument } from '#core/document/document'
import type { PickedIds } from '#core/picked-ids'
import { runChecks } from '#core/checks/check'
import { checks } from '#core/checks/rules/rules.generated'
import type { CheckedSet } from '#core/checks/subject'
import { subjectOfSet } from '#core/checks/subject'
import { GristError } from '#core/errors'
import { hashBytes } from '#core/hash'
import type { Mesh } from '#core/mesh/mesh'
import { bareIds, bareKind } from '#core/mesh/bare-ids'
import { PartIds } from '#core/mesh/part-ids'
import { tileCollisions } from '#core/mesh/tile-owners'
import type { Dress, PartDress } from '#core/mesh/write-glb'
import { writeGlb } from '#core/mesh/write-glb'
import type { Field } from '#core/field/field'
import { modelConnections } from '#core/texture/connection-list'
import { modelMaterialX } from '#core/texture/material-x'
import type { Packing } from '#core/texture/packing'
import { FIRST_TILE } from '#core/document/domain'
import { packings } from '#core/texture/packings/packings.generated'
import type { DeliveryRecord } from '#core/texture/record'
import type { TileMaterial } from '#core/texture/tile-source'
import type { DeliveredFolder } from './delivery-folder'
import { RECORD_NAME } from './delivery-folder'
import { ownFolder } from './own-folders'
import { VERTEX_NAMES, VertexFiles } from './vertex-files'

/** The packing whose files go into the model itself. */
const WORN = packings.find(({ name }) => name === 'occlusion-rough-metal-y-up')!
const MODEL_NAME = 'model.glb'
const LIST_NAME = 'connections.txt'
const MATERIALS_NAME = 'model.mtlx'

/** A file set: the materials on a tile of UVs, of one part or of several that share it. */
export interface FileSet {
  /** The part that it has its name of. */
  readonly part: number
  /** The number of the tile, of parts that lie in others too. */
  readonly udim?: number
  /** Later ones lie over earlier ones. */
  readonly materials: readonly TileMaterial[]
}

/** A file set, and what makes its maps into a folder. */
export interface SetToDeliver extends FileSet {
  deliver(packing: Packing, folder: string, onProgress: (ratio: number) => void): Promise<DeliveredFolder>
  /** One of its channels, all of it. */
  channel(id: string): Promise<Field>
}

/** What is delivered of a model. */
export interface PartsRequest {
  readonly name: string
  /** The mesh with the hash that it is known by, and the UV set that it is laid out in. */
  readonly mesh: Mesh
  readonly meshHash: string
  readonly uvSet: number
  readonly packing: Packing
  readonly application: string
  readonly sets: readonly SetToDeliver[]
  /** The channel that becomes the vertex colours of the model, as PLY and OBJ; none where it is absent. */
  readonly vertices?: string | undefined
  readonly onProgress: (ratio: number) => void
  /** When the maps of a set are there; what it is called. */
  onSet?(name: string, made: DeliveredFolder): Promise<void> | void
}

/** A model's record: what is known of its file sets, and of the file that wears them. */
export interface ModelRecord {
  readonly format: 'amber-grist/model-record'
  readonly version: 2
  readonly application: string
  readonly model: { readonly name: string; readonly mesh: string; readonly uvSet: number }
  readonly file: { readonly name: string; readonly bytes: number; readonly sha256: string }
  readonly sets: readonly {
    readonly folder: string
    /** UDIM number of its tile. */
    readonly udim: number
    readonly record: string
    readonly files: DeliveryRecord['files']
    readonly materials: readonly {
      readonly part: number
      readonly name: string
      readonly material: string
      readonly ids?: PickedIds
    }[]
    /** Parts that lie over one another in it, by their names, and how many pairs of their triangles do. */
    readonly collisions: CheckedSet['collisions']
    /** IDs of its parts that no material is on. Absent in records before it was told. */
    readonly bare?: CheckedSet['bare']
  }[]
}

/** A file set as rules about sets see it. */
export const checkedSet = ({ materials, collisions, bare = [] }: ModelRecord['sets'][number]): CheckedSet => ({
  parts: [...new Set(materials.map(({ name }) => name))],
  byIds: materials.filter(({ ids }) => ids).length,
  collisions,
  bare,
})

/** What rules find in the file sets of a model, in words. */
export const setFindings = ({ sets }: Pick<ModelRecord, 'sets'>): string[] =>
  sets.flatMap((set) =>
    runChecks(SET_RULES, subjectOfSet(checkedSet(set))).map(({ message }) => `${set.folder}: ${message}`),
  )

const SET_RULES = checks.filter(({ ofSets }) => ofSets)

interface Delivered extends FileSet {
  readonly folder: string
  readonly made: DeliveredFolder
  /** What the materials came to together. */
  readonly document: MaterialDocument
}

/**
 * Makes the maps of file sets, each in a folder of its own, and the model that wears them. Gives its record and the names of all files.
 * Throws what making maps throws, with the part named.
 */
export async function deliverParts(
  request: PartsRequest,
  folder: string,
): Promise<{ record: ModelRecord; files: string[] }> {
  const { name, mesh, meshHash, uvSet, packing, application, sets, vertices, onProgress, onSet } = request
  checkVertices(request)
  const worn = await ownFolder()
  const isWorn = packing.name === WORN.name
  const steps = sets.length * (isWorn ? 1 : 2)
  let step = 0
  const dresses = new Map<number, PartDress[]>()
  const delivered: Delivered[] = []
  const vertexFiles = vertices === undefined ? null : new VertexFiles(mesh, uvSet)
  try {
    for (const one of sets) {
      const into = folderName(mesh, one, sets)
      const make = async (by: Packing, to: string): Promise<DeliveredFolder> => {
        const made = await one
          .deliver(by, to, (ratio) => onProgress((step + ratio) / steps))
          .catch((error: unknown) => {
            throw error instanceof GristError ? error.at({ part: mesh.parts[one.part]!.name }) : error
          })
        step++
        return made
      }
      const made = await make(packing, join(folder, into))
      const document = parseDocument(made.record.document)
      delivered.push({ ...one, folder: into, made, document })
      const [at, record] = isWorn
        ? [join(folder, into), made.record]
        : [join(worn, into), (await make(WORN, join(worn, into))).record]
      for (const [part, dress] of await dressesOf(one, document, record, at)) {
        const before = dresses.get(part)
        const own = { dress, ...(one.udim === undefined ? {} : { udim: one.udim }) }
        if (before) before.push(own)
        else dresses.set(part, [own])
      }
      // Now, while what it is made of is at hand.
      if (vertices !== undefined)
        vertexFiles?.add({
          ...{ part: one.part, folder: into, files: made.record.files, field: await one.channel(vertices) },
          ...(one.udim === undefined ? {} : { udim: one.udim }),
          parts: partsOfSet(one).map((part) => ({
            part,
            material: `${safeName(mesh.parts[part]!.name)}-${safeName(mainMaterial(one, part).name)}`,
          })),
        })
      await onSet?.(into, made)
    }
  } finally {
    rmSync(worn, { recursive: true, force: true })
  }
  const coloured = (await vertexFiles?.write(folder)) ?? []
  const glb = await writeGlb(mesh, { dresses, uvSet })
  await writeFile(join(folder, MODEL_NAME), glb)
  const record: ModelRecord = {
    format: 'amber-grist/model-record',
    version: 2,
    application,
    model: { name, mesh: meshHash, uvSet },
    file: { name: MODEL_NAME, bytes: glb.length, sha256: hashBytes(glb) },
    sets: delivered.map((one) => ({
      folder: one.folder,
      udim: one.udim ?? FIRST_TILE,
      record: `${one.folder}/${RECORD_NAME}`,
      files: one.made.record.files,
      materials: one.materials.map(({ part, ids, document }) => ({
        ...{ part, name: mesh.parts[part]!.name, material: document.name },
        ...(ids ? { ids } : {}),
      })),
      collisions: collisionsOf(request, one),
      bare: bareOf(request, one),
    })),
  }
  const texts = new Map([[RECORD_NAME, `${JSON.stringify(record, null, 2)}\n`], ...textsOf(request, delivered)])
  for (const [file, text] of texts) await writeFile(join(folder, file), text)
  const maps = delivered.flatMap((one) => one.made.names.map((file) => `${one.folder}/${file}`))
  return { record, files: [MODEL_NAME, ...coloured, ...texts.keys(), ...maps] }
}

/** Throws reference-unknown where a file set lacks the channel of the vertex colours: before anything is made. */
function checkVertices({ mesh, vertices, sets }: PartsRequest): void {
  for (const { part, materials } of sets)
    if (vertices !== undefined && !materials.some(({ document }) => hasChannel(document, vertices)))
      throw new GristError('reference-unknown', `Its material has no channel "${vertices}".`, {
        part: mesh.parts[part]!.name,
      })
}

const hasChannel = (document: MaterialDocument, id: string): boolean =>
  deliverableChannels(document).some((one) => one.id === id)

/** Parts of a file set by their numbers, each once. */
export const partsOfSet = ({ materials }: Pick<FileSet, 'materials'>): number[] => [
  ...new Set(materials.map(({ part }) => part)),
]

function collisionsOf({ mesh, uvSet }: PartsRequest, set: Delivered): ModelRecord['sets'][number]['collisions'] {
  const parts = partsOfSet(set)
  if (parts.length < 2) return []
  const nameOf = (part: number): string => mesh.parts[part]!.name
  return tileCollisions({ mesh, uvSet, ...(set.udim === undefined ? {} : { udim: set.udim }) }, parts).map(
    ({ parts: [a, b], pairs }) => ({ parts: [nameOf(a), nameOf(b)] as const, pairs }),
  )
}

function bareOf({ mesh, uvSet }: PartsRequest, set: Delivered): CheckedSet['bare'] {
  return partsOfSet(set).flatMap((part) => {
    const kind = bareKind(set.materials, part)
    const bare = kind && bareIds(set.materials, part, new PartIds(mesh, part, uvSet).all(kind))
    return bare ? [{ part: mesh.parts[part]!.name, ...bare }] : []
  })
}

/** The material that a part is said to have: the one on all of it, or the first on some IDs of it. */
const mainMaterial = ({ materials }: FileSet, part: number): MaterialDocument => {
  const own = materials.filter((one) => one.part === part)
  return (own.find(({ ids }) => !ids) ?? own[0]!).document
}

/** The path to a file; of a part in several tiles with <UDIM> in the place of the number of the tile. */
function pathOfTiles(folder: string, file: string, udim: number | undefined, { pattern }: Packing): string {
  if (udim === undefined) return `${folder}/${file}`
  const named = pattern.includes('{udim}') ? file.replaceAll(String(udim), '<UDIM>') : file
  return `${folder.slice(0, -String(udim).length)}<UDIM>/${named}`
}

/** What people and programs read who connect maps to the model. */
function textsOf({ mesh, packing }: PartsRequest, delivered: readonly Delivered[]): [string, string][] {
  const parts = delivered.flatMap((set) =>
    partsOfSet(set).map((part) => {
      const own = mainMaterial(set, part)
      const document = { ...set.document, name: own.name, surface: own.surface }
      return { number: part, part: mesh.parts[part]!.name, document, set, record: set.made.record }
    }),
  )
  parts.sort((a, b) => a.number - b.number)
  const connections = modelConnections(
    parts.map(({ set, ...one }) => ({ ...one, udim: set.udim ?? FIRST_TILE, folder: set.folder })),
  )
  // Of a part in several tiles one path stands for all.
  const first = parts.filter(({ number }, i) => parts.findIndex((one) => one.number === number) === i)
  const material = modelMaterialX(
    first.map(({ set: { folder, udim }, ...one }) => ({
      ...one,
      path: (file) => pathOfTiles(folder, file, udim, packing),
    })),
  )
  return [[LIST_NAME, connections], ...(material === null ? [] : [[MATERIALS_NAME, material] as [string, string]])]
}

/** What the parts of a file set wear: the same pictures, each with its kind of surface. */
async function dressesOf(
  set: FileSet,
  document: MaterialDocument,
  { files }: DeliveryRecord,
  folder: string,
): Promise<[number, Dress][]> {
  const file = (map: string) => files.find((one) => one.map === map)
  const bytes = async (map: string): Promise<Uint8Array | undefined> => {
    const found = file(map)
    return found && readFile(join(folder, found.name))
  }
  const shows = (map: string): boolean => (file(map)?.slots ?? []).some(({ max }) => max > 0)
  const opacity = file('colour')?.slots.find(({ channel }) => channel === 'opacity')
  const pictures = {
    colour: await bytes('colour'),
    normal: await bytes('normal'),
    occlusionRoughMetal: await bytes('occlusion-rough-metal'),
    ...(shows('emission') ? { emission: await bytes('emission') } : {}),
  }
  return partsOfSet(set).map((part) => {
    const own = mainMaterial(set, part)
    const dress = {
      ...{ material: own.name, ...pictures, surface: own.surface },
      emissionStrength: document.emissionStrength,
      hasOpacity: opacity !== undefined && opacity.min < 1,
    }
    return [part, dress]
  })
}

/** A name for a file or folder of a part or model. */
export const safeName = (name: string): string =>
  name.replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^[.-]+/, '') || 'part'

const OWN_NAMES = [MODEL_NAME, RECORD_NAME, LIST_NAME, MATERIALS_NAME, ...VERTEX_NAMES]

/** The folder of a set: the name of its part, with its number where another has the same, and the tile's of parts in several. */
function folderName({ parts: all }: Mesh, { part, udim }: FileSet, sets: readonly FileSet[]): string {
  const name = safeName(all[part]!.name)
  const twice = sets.some((other) => other.part !== part && safeName(all[other.part]!.name) === name)
  const own = twice || OWN_NAMES.includes(name) ? `${name}-${part + 1}` : name
  return udim === undefined ? own : `${own}-${udim}`
}
