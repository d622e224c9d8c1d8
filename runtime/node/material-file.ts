import { basename } from 'node:path'
import { Readable } from 'node:stream'
import type { Entry, ZipFile as OpenZip } from 'yauzl'
import { openPromise } from 'yauzl'
import { ZipFile } from 'yazl'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { GristError } from '#core/errors'
import type { ProjectFile } from '#core/exchange/project-file'
import { PROJECT_NAME, parseProjectFile } from '#core/exchange/project-file'
import { LIMITS } from '#core/limits'
import { IMAGES_FOLDER } from './delivery-folder'

/*
 * Materials with their images as one file: a ZIP with a document (*.json) for each material at its root, and their images in a
 * folder beside them; of a project its models in another, and project.json, which says what lies on which part. Unpacked it is a folder that the command line reads as well. Limits: MAX_ENTRIES, and those of documents
 * and images.
 */

const MAX_ENTRIES = 2000
/** Where the models of a project go along. */
export const MODELS_FOLDER = 'models'
/** All entries carry this moment, so that equal contents give equal bytes. */
const MOMENT = new Date(2000, 0, 1)
const ENTRY = { mtime: MOMENT, mode: 0o100644, forceDosTimestamp: true }

/** An image to go along: its name, and its bytes as a stream. */
export interface ImageToPack {
  readonly name: string
  read(): Readable
}

/** Models to go along: their files by path, made when their turn comes, and what lies where, by the paths of the documents. */
export interface ModelsToPack {
  readonly files: readonly { readonly path: string; read(): Promise<Uint8Array> }[]
  project(documents: readonly string[]): ProjectFile
}

/** A ZIP of materials and images, with models where there are some. Images of one name are told apart by a number. */
export function packMaterials(
  documents: readonly MaterialDocument[],
  images: readonly ImageToPack[],
  models: ModelsToPack | null = null,
): Readable {
  const zip = new ZipFile()
  zip.on('error', (error) => (zip.outputStream as Readable).destroy(error as Error))
  const taken = new Set<string>([PROJECT_NAME])
  const free = (stem: string, end: string): string => {
    let name = stem + end
    for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${stem} ${n}${end}`
    taken.add(name.toLowerCase())
    return name
  }
  const add = (json: unknown, path: string): void =>
    zip.addBuffer(Buffer.from(`${JSON.stringify(json, null, 2)}\n`), path, ENTRY)
  const paths = documents.map((document) => {
    const path = free(plainName(document.name), '.json')
    add(document, path)
    return path
  })
  if (models) add(models.project(paths), PROJECT_NAME)
  for (const { path, read } of models?.files ?? [])
    zip.addReadStreamLazy(path, ENTRY, (give) => {
      read().then(
        (bytes) => give(null, Readable.from([Buffer.from(bytes)])),
        (error: unknown) => give(error, Readable.from([])),
      )
    })
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
  /** The paths of the documents, in their order. */
  readonly paths: readonly string[]
  /** What lies on which model, and the files of the models by their paths. */
  readonly project: ProjectFile | null
  readonly models: readonly { readonly path: string; read(): Promise<Readable> }[]
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
    const paths: string[] = []
    let project: ProjectFile | null = null
    for (const entry of entries.filter(({ fileName }) => /^[^/]+\.json$/i.test(fileName))) {
      if (entry.uncompressedSize > LIMITS.document.bytes)
        throw wrong(`${entry.fileName} is larger than a material may be (${LIMITS.document.bytes >> 20} MB).`)
      const chunks: Buffer[] = []
      for await (const chunk of await read(entry)) chunks.push(chunk as Buffer)
      const text = Buffer.concat(chunks).toString('utf8')
      if (entry.fileName === PROJECT_NAME) project = parseProjectFile(jsonIn(text, entry.fileName))
      else {
        documents.push(documentIn(text, entry.fileName))
        paths.push(entry.fileName)
      }
    }
    if (documents.length === 0) throw wrong('There is no material (*.json) at the root of this ZIP.')
    const images = entries
      .filter(({ fileName }) => fileName.startsWith(`${IMAGES_FOLDER}/`) && !fileName.endsWith('/'))
      .map((entry) => {
        if (entry.uncompressedSize > LIMITS.image.bytes)
          throw wrong(`${entry.fileName} is larger than an image may be (${LIMITS.image.bytes >> 20} MB).`)
        return { path: entry.fileName, name: basename(entry.fileName), read: () => read(entry) }
      })
    const models = entries
      .filter(({ fileName }) => fileName.startsWith(`${MODELS_FOLDER}/`) && !fileName.endsWith('/'))
      .map((entry) => {
        if (entry.uncompressedSize > LIMITS.model.bytes)
          throw wrong(`${entry.fileName} is larger than a model may be (${LIMITS.model.bytes >> 20} MB).`)
        return { path: entry.fileName, read: () => read(entry) }
      })
    return { documents, paths, project, models, images, close: () => zip.close() }
  } catch (error) {
    zip.close()
    throw error instanceof GristError ? error : wrong(`This ZIP cannot be read: ${(error as Error).message}.`)
  }
}

function jsonIn(text: string, file: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    throw new GristError('document-invalid', 'This is no JSON.', { file })
  }
}

function documentIn(text: string, file: string): MaterialDocument {
  const json = jsonIn(text, file)
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
