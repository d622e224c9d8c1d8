import { expose, transfer } from 'comlink'
import { GristError } from '#core/errors'
import type { RasterShape } from '#core/field/raster'
import { valuesOfRaster } from '#core/field/raster'
import type { DrawRequest, Lane } from './coordinator'
import { Coordinator } from './coordinator'
import { browserExecutor } from './helpers'

const coordinator = new Coordinator({
  executor: browserExecutor(),
  cacheBytes: 384 << 20,
  /** Texels come from the server as it decoded them, so that no browser reads a file differently. */
  fetchImage: async ({ image }) => {
    const response = await fetch(`/assets/${encodeURIComponent(image.replace(/^sha256:/, ''))}/raster`)
    if (!response.ok) throw new GristError('asset-missing', `The image ${image} is not in the library.`)
    const shape = JSON.parse(response.headers.get('X-Raster')!) as RasterShape
    return { ...shape, values: valuesOfRaster(new Uint8Array(await response.arrayBuffer()), shape) }
  },
})

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
  probe: (lane: Lane, u: number, v: number) => coordinator.probe(lane, u, v),
  example: (type: string) => coordinator.example(type),
}
export type CoordinatorCalls = typeof calls

expose(calls)
