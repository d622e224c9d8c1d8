import { basename } from 'node:path'
import type { Readable } from 'node:stream'
import type { Entry, ZipFile as OpenZip } from 'yauzl'
import { openPromise } from 'yauzl'
import { ZipFile } from 'yazl'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import { IMAGES_FOLDER } from './delivery-folder'

/*
 * Materials with their images as one file: a ZIP with a document (*.json) for each material at its root, and their images in a
 * folder beside them. Unpacked it is a folder that the command line reads as well. Limits: MAX_ENTRIES, and those of documents
 * and images.
 */

const MAX_ENTRIES = 2000
/** All entries carry this moment, so that equal contents give equal bytes. */
const MOMENT = new Date(2000, 0, 1)
const ENTRY = { mtime: MOMENT, mode: 0o100644, forceDosTimestamp: true }

/** An image to go along: its name, and its bytes as a stream. */
export interface ImageToPack {
  readonly name: string
  read(): Readable
}

/** A ZIP of materials and images. Images of one name are told apart by a number. */
export function packMaterials(documents: readonly MaterialDocument[], images: readonly ImageToPack[]): Readable {
  const zip = new ZipFile()
  zip.on('error', (error) => (zip.outputStream as Readable).destroy(error as Error))
  const taken = new Set<string>()
  const free = (stem: string, end: string): string => {
    let name = stem + end
    for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${stem} ${n}${end}`
    taken.add(name.toLowerCase())
    return name
  }
  for (const document of documents)
    zip.addBuffer(Buffer.from(`${JSON.stringify(document, null, 2)}\n`), free(plainName(document.name), '.json'), ENTRY)
  for (const { name, read } of images) {
    const dot = name.lastIndexOf('.')
    const [stem, end] = dot > 0 ? [name.slice(0, dot), name.slice(dot)] : [name, '']
    const path = free(`${IMAGES_FOLDER}/${plainName(stem)}`, plainName(end))
    // Images are packed already.
    zip.addReadStreamLazy(path, { ...ENTRY, compress: false }, (give) => give(null, read()))
  }
  zip.end()
  return zip.outputStream as Readable
}

/** A name that every system keeps as it is. */
export const plainName = (name: string): string =>
  name
    .normalize('NFC')
    .replace(/[^\p{L}\p{N} ._-]+/gu, '-')
    .slice(0, 80) || 'material'

/** What a file of materials holds. */
export interface PackedMaterials {
  readonly documents: readonly MaterialDocument[]
  /** Images by their paths in the file, as documents may name them. */
  readonly images: readonly { readonly path: string; readonly name: string; read(): Promise<Readable> }[]
  close(): void
}

/** Reads a file of materials. Throws file-invalid, document-invalid, document-too-new. The caller closes it. */
export async function unpackMaterials(path: string): Promise<PackedMaterials> {
  const wrong = (detail: string): GristError => new GristError('file-invalid', detail, { file: basename(path) })
  let zip: OpenZip
  try {
    zip = await openPromise(path, { lazyEntries: true, autoClose: false })
  } catch {
    throw wrong('Expected a ZIP file of materials, and this is none.')
  }
  try {
    const entries = await entriesOf(zip)
    if (entries.length > MAX_ENTRIES)
      throw wrong(`Expected at most ${MAX_ENTRIES} files but received ${entries.length}.`)
    const read = (entry: Entry): Promise<Readable> => zip.openReadStreamPromise(entry)
    const documents: MaterialDocument[] = []
    for (const entry of entries.filter(({ fileName }) => /^[^/]+\.json$/i.test(fileName))) {
      if (entry.uncompressedSize > LIMITS.document.bytes)
        throw wrong(`${entry.fileName} is larger than a material may be (${LIMITS.document.bytes >> 20} MB).`)
      const chunks: Buffer[] = []
      for await (const chunk of await read(entry)) chunks.push(chunk as Buffer)
      documents.push(documentIn(Buffer.concat(chunks).toString('utf8'), entry.fileName))
    }
    if (documents.length === 0) throw wrong('There is no material (*.json) at the root of this ZIP.')
    const images = entries
      .filter(({ fileName }) => fileName.startsWith(`${IMAGES_FOLDER}/`) && !fileName.endsWith('/'))
      .map((entry) => {
        if (entry.uncompressedSize > LIMITS.image.bytes)
          throw wrong(`${entry.fileName} is larger than an image may be (${LIMITS.image.bytes >> 20} MB).`)
        return { path: entry.fileName, name: basename(entry.fileName), read: () => read(entry) }
      })
    return { documents, images, close: () => zip.close() }
  } catch (error) {
    zip.close()
    throw error instanceof GristError ? error : wrong(`This ZIP cannot be read: ${(error as Error).message}.`)
  }
}

function documentIn(text: string, file: string): MaterialDocument {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    throw new GristError('document-invalid', 'This is no JSON.', { file })
  }
  try {
    return parseDocument(json, file)
  } catch (error) {
    throw error instanceof GristError ? error.at({ file }) : error
  }
}

const entriesOf = (zip: OpenZip): Promise<Entry[]> =>
  new Promise((resolve, reject) => {
    const entries: Entry[] = []
    zip.on('entry', (entry: Entry) => {
      entries.push(entry)
      if (entries.length > MAX_ENTRIES) resolve(entries)
      else zip.readEntry()
    })
    zip.on('end', () => resolve(entries))
    zip.on('error', reject)
    zip.readEntry()
  })

/** A document with images named otherwise: in nodes' parameters and in dials. */
export function withImages(document: MaterialDocument, names: ReadonlyMap<string, string>): MaterialDocument {
  const renamed = (_: string, value: unknown): unknown => (typeof value === 'string' && names.get(value)) || value
  return {
    ...document,
    ...JSON.parse(JSON.stringify({ nodes: document.nodes, dials: document.dials, presets: document.presets }), renamed),
  } as MaterialDocument
}
