import { readFile, writeFile } from 'node:fs/promises'
import { rmSync } from 'node:fs'
import { join } from 'node:path'
import type { MaterialDocument } from '#core/document/document'
import { GristError } from '#core/errors'
import { hashBytes } from '#core/hash'
import type { Mesh } from '#core/mesh/mesh'
import type { Dress } from '#core/mesh/write-glb'
import { writeGlb } from '#core/mesh/write-glb'
import type { Packing } from '#core/texture/packing'
import { packings } from '#core/texture/packings/packings.generated'
import type { DeliveryRecord } from '#core/texture/record'
import type { DeliveredFolder } from './delivery-folder'
import { RECORD_NAME } from './delivery-folder'
import { ownFolder } from './own-folders'

/** The packing whose files go into the model itself. */
const WORN = packings.find(({ name }) => name === 'occlusion-rough-metal-y-up')!
const MODEL_NAME = 'model.glb'

/** A part with its material, and what makes its maps into a folder. */
export interface PartToDeliver {
  readonly part: number
  readonly document: MaterialDocument
  deliver(packing: Packing, folder: string, onProgress: (ratio: number) => void): Promise<DeliveredFolder>
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
  readonly parts: readonly PartToDeliver[]
  readonly onProgress: (ratio: number) => void
  /** When the maps of a part are there. */
  onPart?(part: PartToDeliver, made: DeliveredFolder): Promise<void> | void
}

/** A model's record: what is known of the parts, and of the file that wears them. */
export interface ModelRecord {
  readonly format: 'amber-grist/model-record'
  readonly version: 1
  readonly application: string
  readonly model: { readonly name: string; readonly mesh: string; readonly uvSet: number }
  readonly file: { readonly name: string; readonly bytes: number; readonly sha256: string }
  readonly parts: readonly {
    readonly part: number
    readonly name: string
    readonly folder: string
    readonly material: string
    readonly record: string
    readonly files: DeliveryRecord['files']
  }[]
}

/**
 * Makes the maps of parts, each in a folder of its own, and the model that wears them. Gives its record and the names of all files.
 * Throws what making maps throws, with the part named.
 */
export async function deliverParts(
  { name, mesh, meshHash, uvSet, packing, application, parts, onProgress, onPart }: PartsRequest,
  folder: string,
): Promise<{ record: ModelRecord; files: string[] }> {
  const worn = await ownFolder()
  const isWorn = packing.name === WORN.name
  const steps = parts.length * (isWorn ? 1 : 2)
  let step = 0
  const dresses = new Map<number, Dress>()
  const delivered: { part: number; into: string; material: string; made: DeliveredFolder }[] = []
  try {
    for (const one of parts) {
      const { part, document } = one
      const into = folderName(mesh, part, parts)
      const make = async (by: Packing, to: string): Promise<DeliveredFolder> => {
        const made = await one
          .deliver(by, to, (ratio) => onProgress((step + ratio) / steps))
          .catch((error: unknown) => {
            throw error instanceof GristError ? error.at({ part: mesh.parts[part]!.name }) : error
          })
        step++
        return made
      }
      const made = await make(packing, join(folder, into))
      delivered.push({ part, into, material: document.name, made })
      const [at, record] = isWorn
        ? [join(folder, into), made.record]
        : [join(worn, into), (await make(WORN, join(worn, into))).record]
      dresses.set(part, await dressOf(document, record, at))
      await onPart?.(one, made)
    }
  } finally {
    rmSync(worn, { recursive: true, force: true })
  }
  const glb = await writeGlb(mesh, { dresses, uvSet })
  await writeFile(join(folder, MODEL_NAME), glb)
  const record: ModelRecord = {
    format: 'amber-grist/model-record',
    version: 1,
    application,
    model: { name, mesh: meshHash, uvSet },
    file: { name: MODEL_NAME, bytes: glb.length, sha256: hashBytes(glb) },
    parts: delivered.map(({ part, into, material, made }) => ({
      part,
      name: mesh.parts[part]!.name,
      folder: into,
      material,
      record: `${into}/${RECORD_NAME}`,
      files: made.record.files,
    })),
  }
  await writeFile(join(folder, RECORD_NAME), `${JSON.stringify(record, null, 2)}\n`)
  const maps = delivered.flatMap(({ into, made }) => made.names.map((file) => `${into}/${file}`))
  return { record, files: [MODEL_NAME, RECORD_NAME, ...maps] }
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

/** A name for a file or folder of a part or model. */
export const safeName = (name: string): string =>
  name.replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^[.-]+/, '') || 'part'

/** The folder of a part: its name, with its number where another has the same. */
function folderName({ parts: all }: Mesh, part: number, parts: readonly Pick<PartToDeliver, 'part'>[]): string {
  const name = safeName(all[part]!.name)
  const twice = parts.some((other) => other.part !== part && safeName(all[other.part]!.name) === name)
  return twice || name === MODEL_NAME || name === RECORD_NAME ? `${name}-${part + 1}` : name
}
