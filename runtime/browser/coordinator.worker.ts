import { expose, transfer } from 'comlink'
import { encodeSrgb } from '#core/colour/srgb'
import { FieldCache } from '#core/engine/field-cache'
import type { EngineHost } from '#core/engine/evaluate'
import { evaluateFields } from '#core/engine/evaluate'
import { GristError } from '#core/errors'
import type { Field } from '#core/field/field'
import { rowStart } from '#core/field/field'
import type { ImagePyramid, ImageRequest } from '#core/field/pyramid'
import { makePyramid } from '#core/field/pyramid'
import type { RasterShape } from '#core/field/raster'
import { valuesOfRaster } from '#core/field/raster'
import { parseDocument } from '#core/graph/document'
import { registry } from '#core/nodes/registry.generated'
import { expandDocument } from '#core/layers/expand'
import { browserExecutor } from './helpers'

/** A picture ready for a canvas, and what making it took. */
export interface Picture {
  readonly width: number
  readonly height: number
  /** RGBA bytes, sRGB-encoded. */
  readonly pixels: Uint8ClampedArray<ArrayBuffer>
  readonly evaluated: number
  readonly reused: number
  readonly milliseconds: number
}

export type PictureOutcome = { picture: Picture } | { error: string; cancelled: boolean }

const CACHE_BYTES = 384 << 20
const host: EngineHost = {
  executor: browserExecutor(),
  cache: new FieldCache(CACHE_BYTES),
  loadImage,
}
let newest = 0

/** Texels come from the server as it decoded them, so that no browser reads a file differently. */
async function loadImage(request: ImageRequest): Promise<ImagePyramid> {
  const response = await fetch(`/assets/${encodeURIComponent(request.image.replace(/^sha256:/, ''))}/raster`)
  if (!response.ok) throw new GristError('asset-missing', `The image ${request.image} is not in the library.`)
  const shape = JSON.parse(response.headers.get('X-Raster')!) as RasterShape
  const values = valuesOfRaster(new Uint8Array(await response.arrayBuffer()), shape)
  return makePyramid({ ...shape, values }, request, host.executor.allocate)
}

const coordinator = {
  /** Evaluates one output flat. A newer call cancels this one. */
  async draw(json: unknown, output: string, width: number): Promise<PictureOutcome> {
    const own = ++newest
    try {
      const started = performance.now()
      const document = parseDocument(json)
      const graph = expandDocument(document, registry, [output])
      const { fields, report } = await evaluateFields(host, {
        graph,
        outputs: [output],
        width,
        domain: { seed: document.seed, metres: document.domain.metres, heightMetres: document.heightMetres },
        isCancelled: () => own !== newest,
      })
      const field = fields.get(output)!
      const pixels = toPixels(field)
      const { width: w, height } = field
      const milliseconds = performance.now() - started
      const picture = {
        width: w,
        height,
        pixels,
        evaluated: report.evaluated.length,
        reused: report.reused,
        milliseconds,
      }
      return transfer({ picture }, [pixels.buffer])
    } catch (error) {
      const cancelled = error instanceof GristError && error.code === 'cancelled'
      return { error: error instanceof Error ? error.message : String(error), cancelled }
    }
  },
}
export type Coordinator = typeof coordinator

function toPixels(field: Field): Uint8ClampedArray<ArrayBuffer> {
  const { width, height, planes, type } = field
  const pixels = new Uint8ClampedArray(width * height * 4)
  const shown = type === 'colour' ? encodeSrgb : type === 'normal' ? (v: number) => v * 0.5 + 0.5 : (v: number) => v
  for (let y = 0; y < height; y++) {
    const start = rowStart(field, y)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4
      for (let c = 0; c < 3; c++) pixels[at + c] = Math.floor(shown(planes[c % planes.length]![start + x]!) * 255 + 0.5)
      pixels[at + 3] = 255
    }
  }
  return pixels
}

expose(coordinator)
