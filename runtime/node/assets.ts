import { createHash } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { access, copyFile, readdir, stat } from 'node:fs/promises'
import { basename, join } from 'node:path'
import { GristError } from '#core/errors'
import type { ImageLoader } from '#core/engine/pyramids'
import type { RasterImage } from '#core/field/pyramid'
import type { MaterialDocument } from '#core/document/document'
import { applyDials } from '#core/document/apply-dials'
import { LIMITS } from '#core/limits'
import { registry } from '#core/nodes/registry.generated'
import type { SourceImage } from './delivery-folder'
import { IMAGES_FOLDER } from './delivery-folder'
import { assetPath } from './files'
import { readImage } from './read-image'

/**
 * Images by the name a document gives them, from a folder; "sha256:…" is found by content, and so is every image whose hash is
 * `known` from a record.
 */
export class FolderAssets implements ImageLoader {
  private readonly byHash = new Map<string, string>()
  private readonly scanned = new Set<string>()

  constructor(
    private readonly folder: string,
    private readonly known: Readonly<Record<string, string>> = {},
  ) {}

  async load(name: string): Promise<RasterImage> {
    return readImage(await this.find(name))
  }

  /** SHA-256 of every image that nodes of the document name. */
  async hashes(document: MaterialDocument): Promise<Record<string, string>> {
    const found: Record<string, string> = {}
    for (const name of imagesOf(document)) found[name] = await hashOf(await this.find(name))
    return found
  }

  /** The images of a document, to go along with a delivery. */
  async sources(document: MaterialDocument): Promise<SourceImage[]> {
    const sources: SourceImage[] = []
    for (const name of imagesOf(document)) {
      const path = await this.find(name)
      sources.push({ sha256: await hashOf(path), name: basename(path), write: (to) => copyFile(path, to) })
    }
    return sources
  }

  async find(name: string): Promise<string> {
    const hash = name.startsWith('sha256:') ? name.slice(7) : this.known[name]
    if (hash === undefined) {
      const path = assetPath(this.folder, name)
      await access(path).catch(() => {
        throw new GristError('asset-missing', `There is no image ${JSON.stringify(name)} beside the document.`, {
          file: path,
        })
      })
      return path
    }
    // Those that went along with a delivery first; a folder may hold much else.
    for (const folder of [join(this.folder, IMAGES_FOLDER), this.folder]) {
      if (!this.byHash.has(hash)) await this.scan(folder)
      const path = this.byHash.get(hash)
      if (path) return path
    }
    throw new GristError(
      'asset-missing',
      `The image ${JSON.stringify(name)} (SHA-256 ${hash}) is not among the files of this folder. Name the folder that holds it: --assets DIR.`,
      { file: this.folder },
    )
  }

  private async scan(folder: string): Promise<void> {
    if (this.scanned.has(folder)) return
    this.scanned.add(folder)
    const entries = await readdir(folder, { withFileTypes: true, recursive: true }).catch(() => [])
    for (const entry of entries) {
      const path = join(entry.parentPath, entry.name)
      if (!entry.isFile() || (await stat(path)).size > LIMITS.image.bytes) continue
      this.byHash.set(await hashOf(path), path)
    }
  }
}

/** SHA-256 of a file, in hex. */
async function hashOf(path: string): Promise<string> {
  const hash = createHash('sha256')
  for await (const part of createReadStream(path)) hash.update(part as Buffer)
  return hash.digest('hex')
}

/** The images that a document's nodes name as its dials stand, each once. Throws what applying the dials throws. */
export function imagesOf(document: MaterialDocument): string[] {
  const names = Object.values(applyDials(document).nodes).flatMap((node) => {
    const parameters = registry.get(node.type)?.params ?? {}
    return Object.entries(node.params ?? {})
      .filter(([name, value]) => parameters[name]?.kind === 'image' && typeof value === 'string' && value !== '')
      .map(([, value]) => value as string)
  })
  return [...new Set(names)]
}
