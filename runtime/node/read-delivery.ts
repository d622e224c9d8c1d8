import { formatOfBytes } from '#core/texture/format-registry'
import { closeSync, openSync, readSync, readdirSync, statSync } from 'node:fs'
import { extname, join } from 'node:path'
import { GristError } from '#core/errors'
import { CHANNELS } from '#core/document/channels'
import { parseDocument } from '#core/document/document'
import { deliverableChannels } from '#core/document/channels'
import type { CheckSubject, ReadFile } from '#core/checks/subject'
import { subjectOfFiles } from '#core/checks/subject'
import { parseRecord } from '#core/texture/record'
import { roleOfName, roleOfTexels } from '#core/texture/roles'
import { RECORD_NAME, TEXT_NAME } from './delivery-folder'
import { readJson } from './files'
import { readImage } from './read-image'

/** Reads a delivery's files back into channels, as its record says they are to be read. */
export async function readDelivery(folder: string): Promise<CheckSubject> {
  const record = parseRecord(readJson(join(folder, RECORD_NAME)))
  const document = parseDocument(record.document)
  const channels = new Map(deliverableChannels(document).map((channel) => [channel.id, channel]))
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
  const { emissionStrength, domain } = document
  return subjectOfFiles(files, channels, record.heightMetres, { emissionStrength, over: domain.kind })
}

/** A folder of maps that was judged by names and contents. */
export interface JudgedFolder {
  /** One for each size of maps, the largest first. */
  readonly subjects: readonly CheckSubject[]
  /** What each file was taken for, in words. */
  readonly roles: readonly { readonly name: string; readonly content: string; readonly channels: number }[]
  /** Files that nothing told of. */
  readonly unknown: readonly string[]
}

/**
 * Reads a folder of maps that has no record: what each file holds its name says, or its texels.
 * Throws file-invalid where there is no map among its files.
 */
export async function judgeFolder(folder: string): Promise<JudgedFolder> {
  const channels = new Map(CHANNELS.map((channel) => [channel.id, channel]))
  const sizes = new Map<string, ReadFile[]>()
  const roles: { name: string; content: string; channels: number }[] = []
  const unknown: string[] = []
  for (const name of readdirSync(folder).sort()) {
    const path = join(folder, name)
    if (!statSync(path).isFile() || name === TEXT_NAME) continue
    const image = await readImage(path).catch((error: unknown) => {
      if (error instanceof GristError) return null
      throw error
    })
    const role = image && (roleOfName(name) ?? roleOfTexels(image))
    if (!role) {
      unknown.push(name)
      continue
    }
    // A grey file holds one value, and an alpha beside colour is opacity.
    const slots = image.channels < 3 ? role.slots.slice(0, 1) : role.slots.slice(0, image.channels)
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
      content: [...new Set(slots.map(({ channel }) => channel!))].join(', '),
      channels: image.channels,
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
