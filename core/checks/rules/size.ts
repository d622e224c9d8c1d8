import type { CheckRule } from '../check'

/** Sides that mip chains and block compression take. */
const size: CheckRule = {
  name: 'size',
  title: 'Size',
  reference:
    'Blocks are 4 × 4 texels (Khronos Data Format Specification 1.3, chapter 18); powers of two: common practice.',
  run: ({ width, height }) => {
    const power = (n: number): boolean => Number.isInteger(Math.log2(n))
    const found = [width, height].filter((side) => !power(side))
    if (found.length === 0) return []
    const block = found.every((side) => side % 4 === 0)
    return [
      {
        severity: block ? 'warning' : 'error',
        message: `${width} × ${height}: ${block ? 'not a power of two' : 'not a multiple of 4, so it cannot be block-compressed'}.`,
        value: found[0]!,
        fix: 'Choose a size of 512, 1024, 2048 or 4096, and metres in a ratio of powers of two.',
      },
    ]
  },
  measure: ({ width, height }) => `${width} × ${height}, a power of two`,
}
export default size
