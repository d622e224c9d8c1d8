/** Numbers of which there may be millions, and nobody knows how many before. */
export class Growing<T extends Int32Array | Uint32Array | Float32Array | Uint8Array> {
  length = 0
  private values: T

  constructor(private readonly View: new (length: number) => T) {
    this.values = new View(1024)
  }

  add(value: number): void {
    if (this.length === this.values.length) this.widen()
    this.values[this.length++] = value
  }

  addAll(values: T): void {
    if (this.length + values.length > this.values.length) this.widen(this.length + values.length)
    this.values.set(values, this.length)
    this.length += values.length
  }

  private widen(min = 0): void {
    const wider = new this.View(Math.max(min, this.values.length * 2))
    wider.set(this.values)
    this.values = wider
  }

  at(at: number): number {
    return this.values[at]!
  }

  set(at: number, value: number): void {
    this.values[at] = value
  }

  /** All of them: a view, until more are added. */
  get all(): T {
    return this.values.subarray(0, this.length) as T
  }
}
