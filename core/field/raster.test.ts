import { rasterBytes, valuesOfRaster } from './raster'

test.each([
  [8, false],
  [16, false],
  [32, true],
] as const)(
  '%s bits come back as they were, out of a small buffer too, which is a view of a larger one',
  (bits, float) => {
    const values = Float32Array.from([0, 1, 0.2, 0.6, 0.4, 0.8])
    const bytes = Buffer.from(rasterBytes({ values, bits, float }))
    expect(bytes.buffer.byteLength).toBeGreaterThan(bytes.length)
    const read = valuesOfRaster(bytes, { bits, float })
    expect(read).toHaveLength(values.length)
    read.forEach((v, i) => expect(v).toBeCloseTo(values[i]!, 6))
  },
)
