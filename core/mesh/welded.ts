/**
 * For every vertex the first vertex at the very same place, bit for bit (0 and −0 are one place).
 * Shape: `positions` three a vertex; the result one a vertex.
 */
export function weldedVertices(positions: Float32Array): Uint32Array {
  const count = positions.length / 3
  const plain = positions.map((v) => v + 0)
  const words = new Uint32Array(plain.buffer)
  const size = 1 << Math.max(4, Math.ceil(Math.log2(count * 2 + 1)))
  const table = new Int32Array(size).fill(-1)
  const first = new Uint32Array(count)
  for (let v = 0; v < count; v++) {
    const [x, y, z] = [words[v * 3]!, words[v * 3 + 1]!, words[v * 3 + 2]!]
    let slot = (Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca6b) ^ Math.imul(z, 0xc2b2ae35)) >>> 0
    slot = (slot ^ (slot >>> 15)) & (size - 1)
    for (;;) {
      const other = table[slot]!
      if (other < 0) {
        table[slot] = v
        first[v] = v
        break
      }
      if (words[other * 3] === x && words[other * 3 + 1] === y && words[other * 3 + 2] === z) {
        first[v] = other
        break
      }
      slot = (slot + 1) & (size - 1)
    }
  }
  return first
}
