/** Where a writer's bytes go: onward, and now and then back into what was written. */
export interface ByteWriter {
  append(bytes: Uint8Array): void
  /** Overwrites bytes already appended. */
  patch(at: number, bytes: Uint8Array): void
}

/** A writer that takes rows from the top in any number at a time. */
export interface RowWriter<Rows> {
  /** Shape: interleaved channels, `width` texels a row, whole rows. */
  rows(values: Rows): void
  /** Throws RangeError where rows are missing. A promise where the writer needs the whole picture first. */
  end(): void | Promise<void>
}

/** A writer into memory, and what it holds. */
export function memoryWriter(): ByteWriter & { bytes(): Uint8Array } {
  const parts: Uint8Array[] = []
  let size = 0
  const patches: { at: number; bytes: Uint8Array }[] = []
  return {
    append: (bytes) => {
      parts.push(bytes.slice())
      size += bytes.length
    },
    patch: (at, bytes) => void patches.push({ at, bytes: bytes.slice() }),
    bytes: () => {
      const all = new Uint8Array(size)
      let at = 0
      for (const part of parts) {
        all.set(part, at)
        at += part.length
      }
      for (const patch of patches) all.set(patch.bytes, patch.at)
      return all
    },
  }
}
