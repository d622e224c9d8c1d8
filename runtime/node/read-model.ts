import { existsSync, readFileSync, statSync } from 'node:fs'
import { basename, dirname, resolve, sep } from 'node:path'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import type { ReadModel } from '#core/mesh/read-mesh'
import { readMesh } from '#core/mesh/read-mesh'
import { modelDecoders } from './model-decoders'

/** Reads a model from a file; what a .gltf names is looked for beside it. Throws file-invalid, file-unsupported, mesh-invalid. */
export async function readModelFile(path: string, metresPerUnit = 1): Promise<ReadModel> {
  const found = statSync(path, { throwIfNoEntry: false })
  if (!found?.isFile()) throw new GristError('file-invalid', 'There is no such file.', { file: path })
  if (found.size > LIMITS.model.bytes)
    throw new GristError('mesh-invalid', `Expected at most ${LIMITS.model.bytes >> 20} MB.`, { file: path })
  const folder = resolve(dirname(path))
  const file = (name: string): Uint8Array | null => {
    // Nothing outside of the model's folder is read.
    const beside = resolve(folder, name)
    return beside.startsWith(folder + sep) && existsSync(beside) ? readFileSync(beside) : null
  }
  return readMesh(basename(path), readFileSync(path), { decoders: await modelDecoders(), file }, { metresPerUnit })
}
