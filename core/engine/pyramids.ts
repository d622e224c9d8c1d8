import { LRUCache } from 'lru-cache'
import type { Allocate } from '../field/field'
import { plainMemory } from '../field/field'
import type { ImagePyramid, ImageRequest, RasterImage } from '../field/pyramid'
import { imageKey, makePyramid } from '../field/pyramid'

/** Where images come from: a folder, a library, an example. */
export interface ImageLoader {
  /** The image a document names, decoded. Throws asset-missing or file-invalid. */
  load(name: string): Promise<RasterImage>
}

/** Images ready to be sampled; each is loaded once, however many ask for it, and kept while there is room. */
export class Pyramids {
  private readonly known: LRUCache<string, ImagePyramid>
  private readonly loading = new Map<string, Promise<ImagePyramid>>()

  constructor(
    private readonly images: ImageLoader,
    private readonly allocate: Allocate = plainMemory,
    /** Told of images that are let go. */
    onDropped: (pyramid: ImagePyramid) => void = () => {},
    budgetBytes = Number.MAX_SAFE_INTEGER,
  ) {
    this.known = new LRUCache({ maxSize: Math.max(1, budgetBytes), sizeCalculation: bytesOf, dispose: onDropped })
  }

  /** Lets all images go. */
  clear(): void {
    this.known.clear()
  }

  /** Throws what the loader throws. */
  async get(request: ImageRequest): Promise<ImagePyramid> {
    const key = imageKey(request)
    const known = this.known.get(key)
    if (known) return known
    const under = this.loading.get(key)
    if (under) return under
    const work = this.images.load(request.image).then((raster) => makePyramid(raster, request, this.allocate))
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
