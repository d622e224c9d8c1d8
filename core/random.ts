/**
 * One round of the PCG permutation as an integer hash.
 * Range: any 32-bit integer in, an unsigned 32-bit integer out.
 * Source: M. Jarzynski, M. Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020, listing `pcg`.
 */
export function hash32(value: number): number {
  const state = (Math.imul(value, 747796405) + 2891336453) >>> 0
  const word = Math.imul((state >>> ((state >>> 28) + 4)) ^ state, 277803737) >>> 0
  return ((word >>> 22) ^ word) >>> 0
}

/** Folds one more integer into a hash. Source: nested hashing as in the paper above, section 3. */
export function hashInto(hash: number, value: number): number {
  return hash32((hash + value) | 0)
}

/**
 * The seed of one random stream: the document's seed, the node's own, and what it is for.
 * A node's id takes no part, so renaming or copying a node changes nothing.
 */
export function streamSeed(documentSeed: number, nodeSeed: number, purpose: string): number {
  let hash = hashInto(hashInto(hash32(0x9e37), documentSeed), nodeSeed)
  for (let i = 0; i < purpose.length; i++) hash = hashInto(hash, purpose.charCodeAt(i))
  return hash
}

/** The top 24 bits of a hash as a float32-exact number. Range: 0 ≤ x < 1. */
export function unitFloat(hash: number): number {
  return (hash >>> 8) * 5.9604644775390625e-8
}
