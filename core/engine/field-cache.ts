import { LRUCache } from 'lru-cache'
import type { Field } from '../field/field'
import { fieldBuffers } from '../field/field'

/** Whole fields by key, least recently used out first, within a budget of bytes. */
export class FieldCache {
  private readonly fields: LRUCache<string, Field>

  /** `onDropped` is told of each field that has to go. */
  constructor(budgetBytes: number, onDropped: (field: Field) => void = () => {}) {
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

  /** A field larger than the budget is not kept. */
  put(key: string, field: Field): void {
    if (!this.fields.has(key)) this.fields.set(key, field)
  }
}

const bytesOf = (field: Field): number => fieldBuffers(field).reduce((sum, buffer) => sum + buffer.byteLength, 0)
