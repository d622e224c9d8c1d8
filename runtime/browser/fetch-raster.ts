import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'
import type { RasterShape } from '#core/field/raster'
import { valuesOfRaster } from '#core/field/raster'

/** Texels of a large image may take a while; milliseconds. */
const LIMIT = 180_000

const fetchTimely = (address: string): Promise<Response> => fetch(address, { signal: AbortSignal.timeout(LIMIT) })

async function rasterIn(response: Response): Promise<RasterImage> {
  const shape = JSON.parse(response.headers.get('X-Raster')!) as RasterShape
  return { ...shape, values: valuesOfRaster(new Uint8Array(await response.arrayBuffer()), shape) }
}

/**
 * An image of the library. Texels come from the server as it decoded them, so that no browser reads a file differently.
 * Throws asset-missing.
 */
export async function fetchImage(image: string): Promise<RasterImage> {
  const response = await fetchTimely(`/assets/${encodeURIComponent(image.replace(/^sha256:/, ''))}/raster`)
  if (!response.ok) throw new GristError('asset-missing', `The image ${image} is not in the library.`)
  return rasterIn(response)
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
