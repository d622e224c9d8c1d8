import { hashBytes } from '#core/hash'
import type { Mesh } from '#core/mesh/mesh'
import type { ModelContents } from '#core/mesh/mesh-data'
import { packMesh } from '#core/mesh/packed-mesh'
import type { RasterImage } from '#core/field/pyramid'
import { readImage } from '#runtime/node/read-image'
import { readModelFile } from '#runtime/node/read-model'

/** Files that a model is baked from, by their paths. */
export interface ModelFiles {
  readonly model: string
  readonly high?: string
  readonly cage?: string
  readonly image?: string
  /** Metres a unit of files that tell none. */
  readonly unit: number
}

export interface OpenModel {
  readonly mesh: Mesh
  readonly high: Mesh | null
  readonly cage: Mesh | null
  readonly image: RasterImage | null
  readonly contents: ModelContents
}

/** Reads them. Throws what reading models and images throws. */
export async function openModelFiles({ model, high, cage, image, unit }: ModelFiles): Promise<OpenModel> {
  const read = async (path: string | undefined): Promise<Mesh | null> =>
    path === undefined ? null : (await readModelFile(path, unit)).mesh
  const hashOf = (mesh: Mesh | null): string | null => mesh && hashBytes(packMesh(mesh))
  const [low, twin, grown] = [(await read(model))!, await read(high), await read(cage)]
  return {
    mesh: low,
    high: twin,
    cage: grown,
    image: image === undefined ? null : await readImage(image),
    contents: { mesh: hashOf(low)!, high: hashOf(twin), cage: hashOf(grown) },
  }
}
