/** Compresses by zstd; the same bytes give the same bytes. */
export type CompressZstd = (bytes: Uint8Array) => Promise<Uint8Array>
