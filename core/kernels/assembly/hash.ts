/** Twin of hash32 (core/random.ts). */
export function hashNumber(value: i32): u32 {
  const state = <u32>value * 747796405 + 2891336453
  const word = ((state >>> ((state >>> 28) + 4)) ^ state) * 277803737
  return (word >>> 22) ^ word
}
