import { createHash } from 'node:crypto'
import { readFile, readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { GristError } from '#core/errors'
import type { Allocate } from '#core/field/field'
import type { ImagePyramid, ImageRequest } from '#core/field/pyramid'
import { makePyramid } from '#core/field/pyramid'
import type { MaterialDocument } from '#core/graph/document'
import { applyDials } from '#core/layers/dials'
import { registry } from '#core/nodes/registry.generated'
import { assetPath } from './files'
import { readImage } from './read-image'

/** Images by the name a document gives them, from a folder; "sha256:…" is found by content. */
export class FolderAssets {
  private readonly byHash = new Map<string, string>()
  private scanned = false

  constructor(private readonly folder: string) {}

  async load(request: ImageRequest, allocate: Allocate): Promise<ImagePyramid> {
    return makePyramid(await readImage(await this.find(request.image)), request, allocate)
  }

  /** SHA-256 of every image that nodes of the document name. */
  async hashes(document: MaterialDocument): Promise<Record<string, string>> {
    const found: Record<string, string> = {}
    for (const name of imagesOf(document))
      found[name] = createHash('sha256')
        .update(await readFile(await this.find(name)))
        .digest('hex')
    return found
  }

  async find(name: string): Promise<string> {
    if (!name.startsWith('sha256:')) {
      const path = assetPath(this.folder, name)
      await readFile(path).catch(() => {
        throw new GristError('asset-missing', `There is no image ${JSON.stringify(name)} beside the document.`, {
          file: path,
        })
      })
      return path
    }
    if (!this.scanned) await this.scan()
    const path = this.byHash.get(name.slice(7))
    if (!path)
      throw new GristError(
        'asset-missing',
        `No file in the folder has the content ${name}. Name the folder with --assets.`,
        { file: this.folder },
      )
    return path
  }

  private async scan(): Promise<void> {
    for (const entry of await readdir(this.folder, { withFileTypes: true, recursive: true })) {
      if (!entry.isFile()) continue
      const path = join(entry.parentPath, entry.name)
      this.byHash.set(
        createHash('sha256')
          .update(await readFile(path))
          .digest('hex'),
        path,
      )
    }
    this.scanned = true
  }
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
