import { expose, transfer } from 'comlink'
import { GristError } from '#core/errors'
import type { RasterShape } from '#core/field/raster'
import { valuesOfRaster } from '#core/field/raster'
import type { RasterImage } from '#core/field/pyramid'
import type { DrawRequest, Lane } from './coordinator'
import type { PackRequest } from './packing-preview'
import { Coordinator } from './coordinator'
import { browserExecutor } from './helpers'
import { throughJpeg } from './jpeg'

const coordinator = new Coordinator({
  executor: browserExecutor(),
  cacheBytes: 384 << 20,
  /** Texels come from the server as it decoded them, so that no browser reads a file differently. */
  fetchImage: async ({ image }) => {
    const response = await fetchTimely(`/assets/${encodeURIComponent(image.replace(/^sha256:/, ''))}/raster`)
    if (!response.ok) throw new GristError('asset-missing', `The image ${image} is not in the library.`)
    return rasterIn(response)
  },
  fetchFile: async (delivery, index, mip) => {
    const response = await fetchTimely(`/deliveries/${delivery}/files/${index}/raster?mip=${mip}`)
    if (!response.ok) {
      const { error } = (await response.json().catch(() => ({}))) as { error?: string }
      throw new GristError('file-invalid', error ?? 'The delivery’s file could not be read.')
    }
    return rasterIn(response)
  },
  throughJpeg,
})

/** Texels of a large image may take a while; milliseconds. */
const LIMIT = 180_000

const fetchTimely = (address: string): Promise<Response> => fetch(address, { signal: AbortSignal.timeout(LIMIT) })

async function rasterIn(response: Response): Promise<RasterImage> {
  const shape = JSON.parse(response.headers.get('X-Raster')!) as RasterShape
  return { ...shape, values: valuesOfRaster(new Uint8Array(await response.arrayBuffer()), shape) }
}

/** The coordinator as pages reach it: pictures are handed over, not copied. */
const calls = {
  draw: async (lane: Lane, request: DrawRequest) => {
    const outcome = await coordinator.draw(lane, request)
    if (!('drawn' in outcome)) return outcome
    const { textures, swatches } = outcome.drawn
    const pictures = [...Object.values(textures), ...Object.values(swatches)]
    return transfer(
      outcome,
      pictures.map(({ pixels }) => pixels.buffer),
    )
  },
  pack: async (request: PackRequest) => {
    const outcome = await coordinator.pack(request)
    if (!('packed' in outcome)) return outcome
    const { packed } = outcome
    const pictures =
      packed.kind === 'look'
        ? Object.values(packed.textures)
        : Object.values(packed.files).flatMap(({ whole, slots }) => [whole, ...slots])
    return transfer(
      outcome,
      pictures.map(({ pixels }) => pixels.buffer),
    )
  },
  probe: (lane: Lane, u: number, v: number) => coordinator.probe(lane, u, v),
  example: (type: string) => coordinator.example(type),
}
export type CoordinatorCalls = typeof calls

expose(calls)
