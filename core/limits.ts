/** Every limit in one place; stated for users in docs/FORMAT.md and docs/KEEPING.md. Reaching one is a typed error. */
export const LIMITS = {
  document: { nodes: 1000, layers: 256, groupDepth: 16, maskEntries: 64, dials: 256, drives: 64, bytes: 8 << 20 },
  /** Texels a side of anything evaluated. */
  side: 16384,
  /** An image read or sent in: bytes of the file, texels a side and in all, time that decoding may take. */
  image: { bytes: 512 << 20, side: 32768, texels: 1 << 28, milliseconds: 60000 },
  /** One save: edits and patches in it. */
  save: { edits: 200, patches: 2000 },
  /** One bake: longest run, memory that fields may take. */
  job: { seconds: 4 * 3600, fieldBytes: 3 * 2 ** 30 },
  /** Names of projects, documents, packings. */
  name: 200,
} as const
