import { LRUCache } from 'lru-cache'
import type { Field } from '../field/field'
import { fieldPlanes } from '../field/field'

/** Whole fields by key, least recently used out first, within a budget of bytes. */
export class FieldCache {
  private readonly fields: LRUCache<string, Field>

  /** `onDropped` is told of each field that has to go. */
  constructor(
    private readonly budgetBytes: number,
    onDropped: (field: Field) => void = () => {},
  ) {
    this.fields = new LRUCache({ maxSize: budgetBytes, sizeCalculation: bytesOf, dispose: onDropped })
  }

  get bytes(): number {
    return this.fields.calculatedSize
  }

  has(key: string): boolean {
    return this.fields.has(key)
  }

  get(key: string): Field | undefined {
    return this.fields.get(key)
  }

  /** Lets all fields go. */
  clear(): void {
    this.fields.clear()
  }

  /** Whether there is room for a field, were there no other. */
  fits(field: Field): boolean {
    return bytesOf(field) <= this.budgetBytes
  }

  /** Keeps a field, in place of one of the same key; false where it is larger than the budget. */
  put(key: string, field: Field): boolean {
    if (!this.fits(field)) return false
    this.fields.set(key, field)
    return true
  }
}

const bytesOf = (field: Field): number => fieldPlanes(field).reduce((sum, { byteLength }) => sum + byteLength, 0)
