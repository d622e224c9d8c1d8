import { closeSync, mkdirSync, openSync, readSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { utf8ToBytes } from '@noble/hashes/utils.js'
import { cutTextEnd } from '#core/cut-text'
import { GristError } from '#core/errors'
import type { EvaluationReport } from '#core/engine/evaluate'
import type { DeliverRequest } from '#core/texture/delivery'
import type { ChannelSource } from '#core/texture/channel-source'
import { deliver } from '#core/texture/delivery'
import type { MaterialDocument } from '#core/document/document'
import { connectionList } from '#core/texture/connection-list'
import { deliveryText } from '#core/texture/delivery-text'
import { materialX } from '#core/texture/material-x'
import type { KeptFile, MapTime } from '#core/texture/kept-file'
import { keptFiles } from '#core/texture/kept-file'
import { parseRecord } from '#core/texture/record'
import type { DeliveryRecord } from '#core/texture/record'
import { createFile, readJson } from './files'
import { encodeJpeg } from './jpeg'
import { compressZstd } from './zstd'
import { stagedFolder } from './staged-folder'

export const RECORD_NAME = 'record.json'
/** The same for people. */
const TEXT_NAME = 'maps.txt'
const LIST_NAME = 'connections.txt'
const MATERIAL_NAME = 'material.mtlx'
/** What a delivery may hold beside its maps and its record: told by those, so nothing to be read. */
export const TEXT_NAMES: readonly string[] = [TEXT_NAME, LIST_NAME, MATERIAL_NAME]

/** What tells people and programs what the maps are, by name. */
function textsOf(record: DeliveryRecord, document: MaterialDocument): Map<string, string> {
  const material = materialX(record, document)
  return new Map([
    [TEXT_NAME, deliveryText(record, document)],
    [LIST_NAME, connectionList(record, document)],
    ...(material === null ? [] : [[MATERIAL_NAME, material] as const]),
  ])
}
/** Where the images that a material uses go along with its maps; nothing of a packing is called so. */
export const IMAGES_FOLDER = 'images'

/** An image that goes along with a delivery, as it came. */
export interface SourceImage {
  readonly sha256: string
  readonly name: string
  write(path: string): Promise<void>
}

/** What was delivered: the files of the folder in their order, maps first. */
export interface DeliveredFolder {
  readonly record: DeliveryRecord
  readonly report: EvaluationReport
  /** What each map took, and which were kept. */
  readonly times: readonly MapTime[]
  readonly names: readonly string[]
  /** What lay there before is kept under this name. */
  readonly backup: string | null
}

/**
 * Writes a delivery, its record and the images it was made with into a folder, so that it can be made again from itself
 * alone. The folder appears when all is done. Where a kept file is not what its record says, all are made anew. Throws what
 * deliver throws, and file-invalid.
 */
export async function deliverToFolder(
  material: ChannelSource,
  request: FolderRequest,
  folder: string,
  more: FolderOptions = {},
): Promise<DeliveredFolder> {
  try {
    return await deliverOnce(material, request, folder, more)
  } catch (error) {
    const isKept = error instanceof GristError && error.code === 'file-invalid' && (request.kept?.size ?? 0) > 0
    if (!isKept) throw error
    return deliverOnce(material, { ...request, kept: undefined }, folder, more)
  }
}

type FolderRequest = Omit<DeliverRequest, 'open' | 'encodeJpeg' | 'compressZstd'>
interface FolderOptions {
  readonly images?: readonly SourceImage[]
  readonly replace?: boolean
}

async function deliverOnce(
  material: ChannelSource,
  request: FolderRequest,
  folder: string,
  { images = [], replace }: FolderOptions,
): Promise<DeliveredFolder> {
  const staged = stagedFolder(folder, { replace })
  try {
    const done = await deliver(material, {
      ...request,
      encodeJpeg,
      compressZstd,
      open: (name) => createFile(join(staged.path, name)),
    })
    const texts = textsOf(done.record, material.document)
    const names = [...done.record.files.map(({ name }) => name), ...texts.keys(), RECORD_NAME]
    for (const [name, text] of texts) writeFileSync(join(staged.path, name), text)
    writeFileSync(join(staged.path, RECORD_NAME), `${JSON.stringify(done.record, null, 2)}\n`)
    if (images.length > 0) mkdirSync(join(staged.path, IMAGES_FOLDER))
    for (const image of images) {
      const name = `${IMAGES_FOLDER}/${imageName(image)}`
      if (names.includes(name)) continue
      await image.write(join(staged.path, name))
      names.push(name)
    }
    return { ...done, names, backup: staged.commit() }
  } catch (error) {
    staged.discard()
    throw error
  }
}

/** Bytes that are copied in one go. */
const PIECE = 1 << 20

/** Files of a delivery that lies in a folder, by what they come from; none where there is no record that can be read. */
export function keptInFolder(folder: string): Map<string, KeptFile> {
  let record: DeliveryRecord
  try {
    record = parseRecord(readJson(join(folder, RECORD_NAME)))
  } catch {
    return new Map()
  }
  const whole = record.files.filter(({ name, bytes }) => sizeOf(join(folder, name)) === bytes)
  return keptFiles([{ record: { files: whole }, from: folder }], async (_, index, output) => {
    const file = openSync(join(folder, whole[index]!.name), 'r')
    try {
      const piece = new Uint8Array(PIECE)
      for (let read = readSync(file, piece); read > 0; read = readSync(file, piece))
        output.append(piece.subarray(0, read))
    } finally {
      closeSync(file)
    }
  })
}

const sizeOf = (path: string): number | undefined => statSync(path, { throwIfNoEntry: false })?.size

/** A name of its own by its content, with as much of the old one as file systems take. */
function imageName({ sha256, name }: SourceImage): string {
  const mark = sha256.slice(0, 12)
  let safe = name.replace(/[^\p{L}\p{N}._-]+/gu, '-')
  while (utf8ToBytes(safe).length > 200) safe = cutTextEnd(safe, safe.length - 1)
  return `${mark}-${safe}`
}
