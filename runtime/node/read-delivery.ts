import { formatOfBytes } from '#core/texture/format-registry'
import { closeSync, openSync, readSync, readdirSync, statSync } from 'node:fs'
import { extname, join } from 'node:path'
import { GristError } from '#core/errors'
import { CHANNELS } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { deliverableChannels } from '#core/document/channels'
import type { RasterImage } from '#core/field/pyramid'
import type { CheckSubject, ReadFile } from '#core/checks/subject'
import { subjectOfFiles } from '#core/checks/subject'
import { parseRecord } from '#core/texture/record'
import type { Evidence, RoleBy } from '#core/texture/find-role'
import { evidenceOf, findRole, findRoles } from '#core/texture/find-role'
import { RECORD_NAME, TEXT_NAMES } from './delivery-folder'
import { guarded, readJson } from './files'
import { readImage } from './read-image'

/** A delivery's files as they were read, with what tells how they are meant; plain data. */
export interface DeliveredFiles {
  readonly files: readonly ReadFile[]
  readonly document: MaterialDocument
  readonly heightMetres: number
}

/** Reads a delivery's files back into channels, as its record says they are to be read. */
export const readDelivery = async (folder: string): Promise<CheckSubject> =>
  subjectOfDelivery(await readDeliveredFiles(folder))

/** The channels of files that were read. */
export function subjectOfDelivery({ files, document, heightMetres }: DeliveredFiles): CheckSubject {
  const channels = new Map(deliverableChannels(document).map((channel) => [channel.id, channel]))
  const { emissionStrength, domain } = document
  return subjectOfFiles(files, channels, heightMetres, { emissionStrength, over: domain.kind })
}

/** Reads a delivery's files. Throws record-invalid, file-invalid. */
export async function readDeliveredFiles(folder: string): Promise<DeliveredFiles> {
  const record = parseRecord(readJson(join(folder, RECORD_NAME)))
  const files: ReadFile[] = []
  for (const file of record.files) {
    const path = join(folder, file.name)
    const image = await readImage(path)
    if (image.width !== record.width || image.height !== record.height)
      throw new GristError(
        'file-invalid',
        `Expected ${record.width} × ${record.height} but the file has ${image.width} × ${image.height}.`,
        { file: path },
      )
    files.push({ record: file, image, marked: srgbMark(path) })
  }
  return { files, document: parseDocument(record.document), heightMetres: record.heightMetres }
}

/** What a file was taken for, in words; whether its heights are metres. */
interface JudgedRole {
  readonly name: string
  readonly content: string
  readonly by: RoleBy
  readonly inMetres: boolean
}

/** A folder of maps that was judged by names and contents. */
export interface JudgedFolder {
  /** One for each size of maps, the largest first. */
  readonly subjects: readonly CheckSubject[]
  readonly roles: readonly JudgedRole[]
  /** Files that nothing told of. */
  readonly unknown: readonly string[]
}

/**
 * Reads a folder of maps that has no record: what each file holds its name says, or its texels; of one set also what those only suggest, and each channel once.
 * Throws file-invalid where there is no map among its files.
 */
export async function judgeFolder(folder: string, { isOneSet = false } = {}): Promise<JudgedFolder> {
  const channels = new Map(CHANNELS.map((channel) => [channel.id, channel]))
  const names = guarded(folder, () =>
    readdirSync(folder)
      .sort()
      .filter((name) => !TEXT_NAMES.includes(name) && statSync(join(folder, name)).isFile()),
  )
  const unknown: string[] = []
  const images: { name: string; image: RasterImage; evidence: Evidence; texels: number }[] = []
  for (const name of names) {
    const image = await readImage(join(folder, name)).catch((error: unknown) => {
      if (error instanceof GristError) return null
      throw error
    })
    if (image) images.push({ name, image, evidence: evidenceOf([image]), texels: image.width * image.height })
    else unknown.push(name)
  }
  // Of one set each channel is in one file; a folder that is checked may hold several sets.
  const judged = isOneSet ? findRoles(images) : images.map(({ name, evidence }) => findRole(name, evidence))
  const sizes = new Map<string, ReadFile[]>()
  const roles: JudgedRole[] = []
  for (const [i, { name, image }] of images.entries()) {
    const role = judged[i]!
    if (!role || role.slots.length === 0 || (role.by === 'guess' && !isOneSet)) {
      unknown.push(name)
      continue
    }
    const path = join(folder, name)
    const { slots, by } = role
    const { width, height, bits, float } = image
    const record = {
      name,
      map: name.replace(/\.[^.]*$/, ''),
      format: extname(name).slice(1).toLowerCase(),
      bits,
      transfer: float ? ('raw' as const) : role.transfer,
      slots,
      bytes: statSync(path).size,
      sha256: '',
    }
    const found = sizes.get(`${width}×${height}`) ?? []
    sizes.set(`${width}×${height}`, found)
    found.push({ record, image, marked: srgbMark(path) })
    roles.push({
      name,
      content: [...new Set(slots.flatMap(({ channel }) => channel ?? []))].join(', '),
      by,
      inMetres: role.inMetres ?? false,
    })
  }
  if (sizes.size === 0)
    throw new GristError(
      'file-invalid',
      `There is neither a ${RECORD_NAME} nor a file whose name or texels tell which map it is. Names end in words such as colour, normal, roughness, metallic, occlusion, height.`,
      { file: folder },
    )
  const subjects = [...sizes.values()]
    // Heights of float files are taken as they are: no record says how many metres they mean.
    .map((files) => subjectOfFiles(files, channels, 1))
    .sort((a, b) => b.width * b.height - a.width * a.height)
  return { subjects, roles, unknown }
}

/** Whether a file marks itself as sRGB-encoded; null where its format has no such mark. */
function srgbMark(path: string): boolean | null {
  const head = Buffer.alloc(64)
  const file = openSync(path, 'r')
  const length = readSync(file, head, 0, 64, 0)
  closeSync(file)
  const seen = head.subarray(0, length)
  return formatOfBytes(seen)?.isMarkedSrgb?.(seen) ?? null
}
