import type { Field } from '../field/field'
import { fieldBuffers } from '../field/field'

/** Whole fields by content key, least recently used out first, within a budget of bytes. */
export class FieldCache {
  private readonly fields = new Map<string, Field>()
  private held = 0

  /** `onDropped` is told of each field that has to go. */
  constructor(
    readonly budgetBytes: number,
    private readonly onDropped: (field: Field) => void = () => {},
  ) {}

  get bytes(): number {
    return this.held
  }

  has(key: string): boolean {
    return this.fields.has(key)
  }

  get(key: string): Field | undefined {
    const field = this.fields.get(key)
    if (field) {
      this.fields.delete(key)
      this.fields.set(key, field)
    }
    return field
  }

  put(key: string, field: Field): void {
    const bytes = bytesOf(field)
    if (bytes > this.budgetBytes || this.fields.has(key)) return
    this.fields.set(key, field)
    this.held += bytes
    for (const [old, one] of this.fields) {
      if (this.held <= this.budgetBytes) break
      this.fields.delete(old)
      this.held -= bytesOf(one)
      this.onDropped(one)
    }
  }

  clear(): void {
    this.fields.clear()
    this.held = 0
  }
}

const bytesOf = (field: Field): number => fieldBuffers(field).reduce((sum, buffer) => sum + buffer.byteLength, 0)
