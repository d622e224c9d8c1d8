/** A colour that tells one count from the next, RGB bytes; 0 is black. */
export function countBytes(count: number): [number, number, number] {
  if (count === 0) return [0, 0, 0]
  const mixed = Math.imul(count ^ (count >>> 15), 0x2c1b3c6d)
  const hash = Math.imul(mixed ^ (mixed >>> 12), 0x297a2d39) >>> 0
  return [64 + (hash & 191), 64 + ((hash >>> 8) & 191), 64 + ((hash >>> 16) & 191)]
}
