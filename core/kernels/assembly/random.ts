/** Twin of hashInto (core/random.ts), four lanes at once. */
export function hashInto(hash: v128, value: v128): v128 {
  const state = i32x4.add(
    i32x4.mul(i32x4.add(hash, value), i32x4.splat(747796405)),
    i32x4.splat(<i32>(<u32>2891336453)),
  )
  // state >>> ((state >>> 28) + 4): lanes cannot be shifted apart, so the four bits each shift or do not.
  let shifted = i32x4.shr_u(state, 4)
  shifted = v128.bitselect(i32x4.shr_u(shifted, 1), shifted, i32x4.shr_s(i32x4.shl(state, 3), 31))
  shifted = v128.bitselect(i32x4.shr_u(shifted, 2), shifted, i32x4.shr_s(i32x4.shl(state, 2), 31))
  shifted = v128.bitselect(i32x4.shr_u(shifted, 4), shifted, i32x4.shr_s(i32x4.shl(state, 1), 31))
  shifted = v128.bitselect(i32x4.shr_u(shifted, 8), shifted, i32x4.shr_s(state, 31))
  const word = i32x4.mul(v128.xor(shifted, state), i32x4.splat(277803737))
  return v128.xor(i32x4.shr_u(word, 22), word)
}
/** Twin of hash32 (core/random.ts). */
export function hashNumber(value: i32): u32 {
  const state = <u32>value * 747796405 + 2891336453
  const word = ((state >>> ((state >>> 28) + 4)) ^ state) * 277803737
  return (word >>> 22) ^ word
}
