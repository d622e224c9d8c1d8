import { Readable } from 'node:stream'
import type { MaterialDocument } from '#core/document/document'
import { GristError } from '#core/errors'
import { packMaterials, plainName, unpackMaterials, withImages } from '#runtime/node/material-file'
import { assetHashes, findAsset, importImage } from '../assets/assets.server'
import { openDocument } from '../documents/documents.server'
import { Problem } from '../http/problem.server'
import { readBlob } from '../storage/blobs.server'
import type { Spooled } from '../storage/uploads.server'
import { addDocument } from './materials.server'
import { openProject } from './projects.server'

/** A material with its images, as one file. */
export async function materialFile(id: string): Promise<Response> {
  const { document } = await openDocument(id)
  return fileOf(document.name, [document])
}

/** All materials of a project with their images, as one file. */
export async function projectFile(id: string): Promise<Response> {
  const { name, documents } = await openProject(id)
  if (documents.length === 0) throw new Problem(404, 'This project has no materials.')
  const opened: MaterialDocument[] = []
  for (const one of documents) opened.push((await openDocument(one.id)).document)
  return fileOf(name, opened)
}

async function fileOf(name: string, documents: readonly MaterialDocument[]): Promise<Response> {
  const hashes = new Set(documents.flatMap((document) => Object.values(assetHashes(document))))
  const images = []
  for (const sha256 of hashes) {
    const asset = await findAsset(sha256)
    // A missing image is missing here too; the material says so where it is opened.
    if (asset) images.push({ name: asset.name, read: () => Readable.from(readBlob(sha256)) })
  }
  return new Response(Readable.toWeb(packMaterials(documents, images)) as ReadableStream, {
    headers: {
      'Content-Type': 'application/zip',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(`${plainName(name)}.zip`)}`,
    },
  })
}

/** Brings the materials of a file into a project, with their images. Gives their ids. */
export async function importMaterials(projectId: string, file: Spooled): Promise<string[]> {
  await openProject(projectId)
  const packed = await unpackMaterials(file.path).catch((error: unknown) => {
    throw error instanceof GristError ? new Problem(400, error.message) : error
  })
  try {
    const names = new Map<string, string>()
    for (const { path, name, read } of packed.images)
      names.set(path, `sha256:${(await importImage(await read(), name)).sha256}`)
    const ids: string[] = []
    for (const document of packed.documents) ids.push(await addDocument(projectId, withImages(document, names)))
    return ids
  } finally {
    packed.close()
  }
}
