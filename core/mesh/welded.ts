/** Every part of a mesh asks for all of it. */
const known = new WeakMap<Float32Array, Uint32Array>()

/**
 * For every vertex the first vertex at the very same place, bit for bit (0 and −0 are one place). Kept for as long as the positions are:
 * nobody writes to either.
 * Shape: `positions` three a vertex; the result one a vertex.
 */
export function weldedVertices(positions: Float32Array): Uint32Array {
  let welded = known.get(positions)
  if (!welded) known.set(positions, (welded = firstEqual(new Uint32Array(positions.map((v) => v + 0).buffer))))
  return welded
}

/** For every three words the number of the first three that are equal. */
export function firstEqual(words: Uint32Array): Uint32Array {
  const count = words.length / 3
  const size = 1 << Math.max(4, Math.ceil(Math.log2(count * 2 + 1)))
  const table = new Int32Array(size).fill(-1)
  const first = new Uint32Array(count)
  for (let v = 0; v < count; v++) {
    const a = words[v * 3]!
    const b = words[v * 3 + 1]!
    const c = words[v * 3 + 2]!
    let slot = (Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b) ^ Math.imul(c, 0xc2b2ae35)) >>> 0
    slot = (slot ^ (slot >>> 15)) & (size - 1)
    while (table[slot]! >= 0) {
      const other = table[slot]! * 3
      if (words[other] === a && words[other + 1] === b && words[other + 2] === c) break
      slot = (slot + 1) & (size - 1)
    }
    if (table[slot]! < 0) table[slot] = v
    first[v] = table[slot]!
  }
  return first
}
