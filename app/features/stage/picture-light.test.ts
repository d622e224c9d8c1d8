import { radianceOf } from './picture-light'

/** A picture of 8 × 4 texels: grey grows with the row, the fifth column (right of the middle) is bright. */
const picture = (float: boolean) => ({
  width: 8,
  height: 4,
  channels: 1 as const,
  bits: float ? (32 as const) : (8 as const),
  float,
  values: Float32Array.from({ length: 32 }, (_, i) => (i % 8 === 4 ? 9 : Math.floor(i / 8) * 0.25)).map((v) =>
    float ? v : Math.min(1, v),
  ),
})
/** Middle of a texel of the picture as a direction. */
function direction(column: number, row: number): [number, number, number] {
  const turn = ((column + 0.5) / 8 - 0.5) * 2 * Math.PI
  const fall = ((row + 0.5) / 4) * Math.PI
  return [Math.sin(turn) * Math.sin(fall), Math.cos(fall), -Math.cos(turn) * Math.sin(fall)]
}

it('reads floats as light: the middle of each texel as it is, above 1 too', () => {
  const light = radianceOf(picture(true))
  for (const [column, row] of [
    [0, 0],
    [2, 1],
    [4, 2],
    [7, 3],
  ] as const)
    expect(light(...direction(column, row))[1]).toBeCloseTo(column === 4 ? 9 : row * 0.25, 5)
  // Right of ahead (−z) is +x: the bright column is there.
  expect(light(0.38, 0, -0.92)[0]).toBeGreaterThan(light(-0.38, 0, -0.92)[0])
})

it('decodes bytes, and goes on across the seam behind', () => {
  const light = radianceOf(picture(false))
  // Byte 128 of 255 is 0.2159 in linear light (IEC 61966-2-1).
  expect(light(...direction(2, 2))[0]).toBeCloseTo(0.2159, 2)
  const [a, b] = [light(0.001, 0, 1)[0], light(-0.001, 0, 1)[0]]
  expect(Math.abs(a - b)).toBeLessThan(0.01)
})
