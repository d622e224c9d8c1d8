import {
  createWriteStream,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { GristError } from '#core/errors'
import type { ProjectFile } from '#core/exchange/project-file'
import { isProjectFile, parseProjectFile } from '#core/exchange/project-file'
import { IMAGES_FOLDER } from '#runtime/node/delivery-folder'
import { folderOf } from '#runtime/node/files'

/** Larger files are no projects: those name materials and meshes, and hold none. */
const MAX_BYTES = 16 << 20

/**
 * A project's file (project.json), or a ZIP that a project was taken along as, with the folder that its paths begin in; null where it is
 * something else. Throws file-invalid.
 */
export async function openProjectFile(path: string): Promise<{ project: ProjectFile; folder: string } | null> {
  if (!existsSync(path)) return null
  if (/\.zip$/i.test(path)) return openZip(path)
  if (!/\.json$/i.test(path) || statSync(path).size > MAX_BYTES) return null
  let json: unknown
  try {
    json = JSON.parse(readFileSync(path, 'utf8'))
  } catch {
    // Whoever reads it as a material tells what is wrong with it.
    return null
  }
  if (!isProjectFile(json)) return null
  try {
    return { project: parseProjectFile(json), folder: folderOf(path) }
  } catch (error) {
    throw error instanceof GristError ? error.at({ file: path }) : error
  }
}

/** Unpacked for as long as the command runs; null of a ZIP that holds no project. */
async function openZip(path: string): Promise<{ project: ProjectFile; folder: string } | null> {
  const { unpackMaterials } = await import('#runtime/node/material-file')
  const { project, documents, paths, models, images, close } = await unpackMaterials(path)
  try {
    if (!project) return null
    const folder = mkdtempSync(join(tmpdir(), 'grist-'))
    process.once('exit', () => rmSync(folder, { recursive: true, force: true }))
    documents.forEach((document, i) => writeFileSync(join(folder, paths[i]!), JSON.stringify(document)))
    mkdirSync(join(folder, IMAGES_FOLDER))
    const files = [...models, ...images.map(({ name, read }) => ({ path: `${IMAGES_FOLDER}/${name}`, read }))]
    for (const one of files) {
      mkdirSync(dirname(join(folder, one.path)), { recursive: true })
      await pipeline(await one.read(), createWriteStream(join(folder, one.path)))
    }
    return { project, folder }
  } finally {
    close()
  }
}
