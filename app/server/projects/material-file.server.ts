import { createWriteStream } from 'node:fs'
import { basename, extname } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { v4 as uuid } from 'uuid'
import type { MaterialDocument } from '#core/document/document'
import { GristError } from '#core/errors'
import { writeGlb } from '#core/mesh/write-glb'
import type { ProjectModel } from '#core/exchange/project-file'
import { partNumber, joinsOf } from '#core/exchange/project-file'
import type { ModelsToPack, PackedMaterials } from '#runtime/node/material-file'
import { MODELS_FOLDER, packMaterials, plainName, unpackMaterials, withImages } from '#runtime/node/material-file'
import { assetHashes, findAsset, importImage } from '../assets/assets.server'
import { openDocument } from '../documents/documents.server'
import { addModel, keptMesh, openModel, replaceMesh, setBakeSettings, shareFiles } from '../models/models.server'
import { placeMaterial, projectParts } from '../placements/placements.server'
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

/** All materials of a project with their images, and its models with what lies on them, as one file. */
export async function projectFile(id: string): Promise<Response> {
  const { name, documents } = await openProject(id)
  if (documents.length === 0) throw new Problem(404, 'This project has no materials.')
  const opened: MaterialDocument[] = []
  for (const one of documents) opened.push((await openDocument(one.id)).document)
  return fileOf(name, opened, await modelsToPack(id, name, documents))
}

/** The models of a project to go along with its materials; null where it has none. */
async function modelsToPack(
  project: string,
  name: string,
  documents: readonly { readonly id: string }[],
): Promise<ModelsToPack | null> {
  const placed = await projectParts(project)
  if (placed.length === 0) return null
  const taken = new Set<string>()
  const pathOf = (wanted: string): string => {
    const stem = `${MODELS_FOLDER}/${plainName(wanted)}`
    let path = `${stem}.glb`
    for (let n = 2; taken.has(path.toLowerCase()); n++) path = `${stem} ${n}.glb`
    taken.add(path.toLowerCase())
    return path
  }
  const files: ModelsToPack['files'][number][] = []
  const fileOf = (wanted: string, sha256: string): string => {
    const path = pathOf(wanted)
    files.push({ path, read: async () => writeGlb(await keptMesh(sha256)) })
    return path
  }
  const models = await Promise.all(placed.map(({ id }) => openModel(id)))
  const described = models.map(({ name: called, mesh, high, cage, settings, summary, joins }, i) => {
    // The image that is transferred is one of this server’s.
    const kept = { ...settings, transferImage: null }
    const nameOf = (part: number): { part: string; number?: number } => {
      const { name: own } = summary.parts[part]!
      const many = summary.parts.filter((one) => one.name === own).length > 1
      return { part: own, ...(many ? { number: part } : {}) }
    }
    return {
      name: called,
      mesh: fileOf(called, mesh),
      ...(high ? { high: fileOf(`${called} high`, high.sha256) } : {}),
      ...(cage ? { cage: fileOf(`${called} cage`, cage.sha256) } : {}),
      unit: 1,
      settings: kept,
      parts: placed[i]!.parts.flatMap(({ part, material, onIds }, k, all) => {
        // One in several tiles comes once for each.
        if (all[k - 1]?.part === part) return []
        const lying = [
          ...(material ? [{ material }] : []),
          ...onIds.map(({ ids, material: own }) => ({ ids, material: own })),
        ]
        return lying.flatMap(({ material: { id }, ...ids }) => {
          const at = documents.findIndex((one) => one.id === id)
          return at < 0 ? [] : [{ ...nameOf(part), ...ids, at }]
        })
      }),
      joins: Object.entries(joins).map(([part, owner]) => ({ ...nameOf(Number(part)), with: nameOf(owner) })),
    }
  })
  return {
    files,
    project: (paths) => ({
      ...{ format: 'amber-grist/project', version: 1, name },
      models: described.map((one) => ({
        ...one,
        parts: one.parts.map(({ at, ...part }) => ({ ...part, material: paths[at]! })),
      })),
    }),
  }
}

async function fileOf(
  name: string,
  documents: readonly MaterialDocument[],
  models: ModelsToPack | null = null,
): Promise<Response> {
  const hashes = new Set(documents.flatMap((document) => Object.values(assetHashes(document))))
  const images = []
  for (const sha256 of hashes) {
    const asset = await findAsset(sha256)
    // A missing image is missing here too; the material says so where it is opened.
    if (asset) images.push({ name: asset.name, read: () => Readable.from(readBlob(sha256)) })
  }
  return new Response(Readable.toWeb(packMaterials(documents, images, models)) as ReadableStream, {
    headers: {
      'Content-Type': 'application/zip',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(`${plainName(name)}.zip`)}`,
    },
  })
}

/** Brings the materials of a file into a project, with their images, and its models with what lies on them. Gives the materials’ ids. */
export async function importMaterials(projectId: string, file: Spooled): Promise<string[]> {
  await openProject(projectId)
  const packed = await unpackMaterials(file.path).catch((error: unknown) => {
    throw error instanceof GristError ? new Problem(400, error.message) : error
  })
  try {
    checkWhole(packed)
    const names = new Map<string, string>()
    for (const { path, name, read } of packed.images)
      names.set(path, `sha256:${(await importImage(await read(), name)).sha256}`)
    const ids: string[] = []
    for (const document of packed.documents) ids.push(await addDocument(projectId, withImages(document, names)))
    for (const model of packed.project?.models ?? []) await importModel(projectId, model, packed, ids, file)
    return ids
  } finally {
    packed.close()
  }
}

/** Throws a Problem 400 where a project names what its file does not hold: before anything of it comes in. */
function checkWhole({ project, models, paths }: PackedMaterials): void {
  const held = new Set([...paths, ...models.map(({ path }) => path)])
  for (const { name, mesh, high = mesh, cage = mesh, parts } of project?.models ?? []) {
    const missing = [mesh, high, cage, ...parts.map(({ material }) => material)].find((path) => !held.has(path))
    if (missing !== undefined) throw new Problem(400, `“${name}” names ${missing}, which is not in the file.`)
  }
}

/** A model of a project’s file, with its settings, and materials on its parts. Throws what reading models throws, file-invalid. */
async function importModel(
  projectId: string,
  { name, mesh, high, cage, settings, parts, joins }: ProjectModel,
  { models, paths }: PackedMaterials,
  documents: readonly string[],
  file: Spooled,
): Promise<void> {
  const arrived = async (path: string): Promise<Spooled> => {
    const to = `${file.path}-${uuid()}${extname(path)}`
    await pipeline(await models.find((one) => one.path === path)!.read(), createWriteStream(to))
    // Its folder is its own, and goes with it.
    return { ...file, path: to }
  }
  const id = await addModel(projectId, await arrived(mesh), basename(mesh), name)
  for (const [role, path] of [
    ['high', high],
    ['cage', cage],
  ] as const)
    if (path !== undefined) await replaceMesh(id, role, await arrived(path), basename(path))
  await setBakeSettings(id, settings)
  const names = (await openModel(id)).summary.parts.map((part) => part.name)
  for (const placed of parts) {
    const document = documents[paths.indexOf(placed.material)]!
    await placeMaterial(projectId, { model: id, part: partNumber(placed, names), ids: placed.ids }, document)
  }
  for (const [part, owner] of Object.entries(joinsOf({ joins }, names))) await shareFiles(id, Number(part), owner)
}
