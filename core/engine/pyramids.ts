import { LRUCache } from 'lru-cache'
import type { Allocate } from '../field/field'
import type { ImagePyramid, ImageRequest, RasterImage } from '../field/pyramid'
import { imageKey, makePyramid } from '../field/pyramid'

/** Where images come from: a folder, a library, an example. */
export interface ImageLoader {
  /** The image a document names, decoded. Throws asset-missing or file-invalid. */
  load(name: string): Promise<RasterImage>
}

/** Memory that other threads see, where there is such; the collector takes it back. */
const anyThread: Allocate = (bytes) =>
  new Uint8Array(globalThis.SharedArrayBuffer ? new SharedArrayBuffer(bytes) : new ArrayBuffer(bytes))

/** Room for the images of one bake, in bytes. */
export const BAKE_PYRAMIDS = 1 << 30

/** Images ready to be sampled; each is loaded once, however many ask for it, and kept while there is room. */
export class Pyramids {
  private readonly known: LRUCache<string, ImagePyramid>
  private readonly loading = new Map<string, Promise<ImagePyramid>>()

  constructor(
    private readonly images: ImageLoader,
    budgetBytes = BAKE_PYRAMIDS,
  ) {
    this.known = new LRUCache({ maxSize: Math.max(1, budgetBytes), sizeCalculation: bytesOf })
  }

  /** Throws what the loader throws. */
  async get(request: ImageRequest): Promise<ImagePyramid> {
    const key = imageKey(request)
    const known = this.known.get(key)
    if (known) return known
    const under = this.loading.get(key)
    if (under) return under
    const work = this.images.load(request.image).then((raster) => makePyramid(raster, request, anyThread))
    this.loading.set(key, work)
    try {
      const pyramid = await work
      this.known.set(key, pyramid)
      return pyramid
    } finally {
      this.loading.delete(key)
    }
  }
}

const bytesOf = ({ levels }: ImagePyramid): number =>
  Math.max(
    1,
    levels.reduce((sum, { texels }) => sum + texels.byteLength, 0),
  )
