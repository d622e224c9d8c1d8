import { gzipSync } from 'node:zlib'
import { move, transferableSymbol, valueSymbol } from 'piscina'
import { bakerNamed } from '#core/mesh/mesh-data'
import { meshDataBytes } from '#core/mesh/mesh-data-raster'
import type { DevelopedMeshData, MeshDataTask } from './developed-mesh-data'
import { hashOf } from './mesh-data-hash'
import { meshDataPictures, missedPng } from './mesh-pictures'

/** Entry of the thread that makes of mesh data what is kept: at 4096 that takes seconds, in which the process must be heard of. */
export default async ({ kind, field, scale, missedAt }: MeshDataTask): Promise<unknown> => {
  const baker = bakerNamed(kind)
  const bytes = meshDataBytes(baker, field)
  const packed = new Uint8Array(gzipSync(bytes, { level: 1 }))
  const made: DevelopedMeshData = {
    packed,
    sha256: hashOf(bytes),
    ...(await meshDataPictures(baker, field, scale)),
    missedPicture: missedAt ? await missedPng(missedAt, field.width) : null,
  }
  // Handed over, not copied.
  return move({ [transferableSymbol]: [packed.buffer], [valueSymbol]: made })
}
