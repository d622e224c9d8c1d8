// First: the helpers load while this worker does.
import { browserExecutor } from './helpers'
import { expose, transfer } from 'comlink'
import { GristError } from '#core/errors'
import type { RasterShape } from '#core/field/raster'
import { valuesOfRaster } from '#core/field/raster'
import type { RasterImage } from '#core/field/pyramid'
import { Coordinator } from './coordinator'
import { throughJpeg } from './jpeg'
import type { PackRequest, PreviewRequest, View } from './protocol'

const coordinator = new Coordinator({
  executor: browserExecutor(),
  cacheBytes: 384 << 20,
  images: {
    /** Texels come from the server as it decoded them, so that no browser reads a file differently. */
    load: async (image) => {
      const response = await fetchTimely(`/assets/${encodeURIComponent(image.replace(/^sha256:/, ''))}/raster`)
      if (!response.ok) throw new GristError('asset-missing', `The image ${image} is not in the library.`)
      return rasterIn(response)
    },
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

const buffers = (pictures: readonly { pixels: { buffer: ArrayBuffer } }[]): ArrayBuffer[] =>
  pictures.map(({ pixels }) => pixels.buffer)

/** The coordinator as pages reach it: pictures are handed over, not copied. */
const calls = {
  evaluatePreview: async (view: View, request: PreviewRequest) => {
    const outcome = await coordinator.evaluatePreview(view, request)
    if (!('preview' in outcome)) return outcome
    const { textures, swatches } = outcome.preview
    return transfer(outcome, buffers([...Object.values(textures), ...Object.values(swatches)]))
  },
  pack: async (request: PackRequest) => {
    const outcome = await coordinator.pack(request)
    if (!('packed' in outcome)) return outcome
    const { packed } = outcome
    const pictures =
      packed.kind === 'delivered'
        ? Object.values(packed.textures)
        : Object.values(packed.files).flatMap(({ whole, slots }) => [whole, ...slots])
    return transfer(outcome, buffers(pictures))
  },
  probe: (view: View, u: number, v: number) => coordinator.probe(view, u, v),
  example: (type: string) => coordinator.example(type),
}
export type CoordinatorCalls = typeof calls

expose(calls)
