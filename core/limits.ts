/** Every limit in one place; stated for users in docs/FORMAT.md and docs/KEEPING.md. Reaching one is a typed error. */
export const LIMITS = {
  document: { nodes: 1000, layers: 256, groupDepth: 16, maskEntries: 64, dials: 256, drives: 64, bytes: 8 << 20 },
  /** Texels a side of anything evaluated. */
  side: 16384,
  /**
   * An image that is imported: bytes of its file, texels a side, bytes of its texels as they are kept (8192 × 8192 of four
   * channels in 16 bits, or 4096 × 4096 of four floats), and the longest time that decoding may take.
   */
  image: { bytes: 512 << 20, side: 16384, decodedBytes: 512 << 20, floatBytes: 256 << 20, milliseconds: 60000 },
  /** A model that is imported: bytes of its file, triangles, vertices, parts, and the longest time that reading it and laying it out may take. */
  model: {
    bytes: 512 << 20,
    triangles: 4_000_000,
    vertices: 12_000_000,
    parts: 4096,
    milliseconds: 60000,
    layoutMilliseconds: 30 * 60000,
  },
  /** One save: edits and patches in it. */
  save: { edits: 200, patches: 2000 },
  /** One bake: longest run, memory that fields may take. */
  job: { seconds: 4 * 3600, fieldBytes: 3 * 2 ** 30 },
  /** Names of projects, documents, packings. */
  name: 200,
} as const
