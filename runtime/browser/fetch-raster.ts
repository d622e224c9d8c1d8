import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'
import type { RasterShape } from '#core/field/raster'
import { valuesOfRaster } from '#core/field/raster'
import type { MeshDataKind } from '#core/graph/mesh-data-kinds'
import type { Mesh } from '#core/mesh/mesh'
import { unpackMesh } from '#core/mesh/packed-mesh'
import { imageOfMeshData } from '#core/mesh/mesh-data-raster'

/** Texels of a large image may take a while; milliseconds. */
const LIMIT = 180_000

const fetchTimely = (address: string): Promise<Response> => fetch(address, { signal: AbortSignal.timeout(LIMIT) })

async function rasterIn(response: Response): Promise<RasterImage> {
  const shape = JSON.parse(response.headers.get('X-Raster')!) as RasterShape
  return { ...shape, values: valuesOfRaster(new Uint8Array(await response.arrayBuffer()), shape) }
}

/**
 * An image of the library, or mesh data. Texels come from the server as it decoded them, so that no browser reads a file differently.
 * Throws asset-missing.
 */
export async function fetchImage(image: string): Promise<RasterImage> {
  if (image.startsWith('mesh-data:')) return fetchMeshData(image)
  const response = await fetchTimely(`/assets/${encodeURIComponent(image.replace(/^sha256:/, ''))}/raster`)
  if (!response.ok) throw new GristError('asset-missing', `The image ${image} is not in the library.`)
  return rasterIn(response)
}

/** Mesh data of a part, by the name of their image. Throws mesh-data-missing. */
async function fetchMeshData(name: string): Promise<RasterImage> {
  const response = await fetchTimely(`/mesh-data/${encodeURIComponent(name.replace(/^mesh-data:/, ''))}`)
  if (!response.ok)
    throw new GristError(
      'mesh-data-missing',
      'These mesh data have been baked anew: reload the page to see the new ones.',
    )
  const shape = JSON.parse(response.headers.get('X-Raster')!) as RasterShape
  const kind = response.headers.get('X-Kind') as MeshDataKind
  return imageOfMeshData(kind, shape, new Uint8Array(await response.arrayBuffer()))
}

/** A mesh that is kept, by its hash. Throws mesh-data-missing. */
export async function fetchMesh(hash: string): Promise<Mesh> {
  const response = await fetchTimely(`/meshes/${encodeURIComponent(hash)}`)
  if (!response.ok) throw new GristError('mesh-data-missing', 'The model of this part cannot be read right now.')
  return unpackMesh(new Uint8Array(await response.arrayBuffer()))
}

/** A delivery's file as it was written, at a mip level. Throws file-invalid. */
export async function fetchFile(delivery: string, index: number, mip: number): Promise<RasterImage> {
  const response = await fetchTimely(`/deliveries/${delivery}/files/${index}/raster?mip=${mip}`)
  if (!response.ok) {
    const { error } = (await response.json().catch(() => ({}))) as { error?: string }
    throw new GristError('file-invalid', error ?? 'The delivery’s file could not be read.')
  }
  return rasterIn(response)
}
