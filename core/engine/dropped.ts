import type { Field } from '../field/field'
import { fieldPlanes } from '../field/field'
import type { ImagePyramid } from '../field/pyramid'
import { pyramidPlanes } from '../field/pyramid'

/**
 * Fields and images that caches let go, until nobody reads them: their memory goes back once no evaluation is under way.
 * Without it a long drag grew by 900 MB a minute.
 */
export class Dropped {
  private readonly fields = new Set<Field>()
  private readonly images = new Set<ImagePyramid>()
  private readonly arrays: ArrayBufferView[] = []

  constructor(private readonly free: (region: ArrayBufferView) => void) {}

  /** A field that the cache no longer holds. */
  readonly addField = (field: Field): void => void this.fields.add(field)

  /** An image that is not kept any more. */
  readonly addImage = (pyramid: ImagePyramid): void => void this.images.add(pyramid)

  /** Memory of other things that are not kept any more. */
  readonly addArrays = (arrays: readonly ArrayBufferView[]): void => void this.arrays.push(...arrays)

  /** No evaluation is under way; of the fields that were let go, only `live` ones are still read. */
  release(live: Iterable<Field>): void {
    const inUse = new Set(live)
    for (const field of this.fields) {
      if (inUse.has(field)) continue
      this.fields.delete(field)
      fieldPlanes(field).forEach(this.free)
    }
    for (const pyramid of this.images) pyramidPlanes(pyramid).forEach(this.free)
    this.images.clear()
    this.arrays.splice(0).forEach(this.free)
  }
}
