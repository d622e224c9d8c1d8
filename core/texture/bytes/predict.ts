import { simd } from '../../kernels/simd'

/**
 * Even bytes first, then odd ones, each as the difference to the one before.
 * Source: "OpenEXR File Layout" (Academy Software Foundation), the byte reordering and predictor of ZIP compression.
 */
export function splitAndPredicted(raw: Uint8Array): Uint8Array {
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const [from, to] = [twin.take(raw.length / 4 + 8), twin.take(raw.length / 4 + 8)]
      twin.bytes(from, raw.length).set(raw)
      twin.assembly.splitBytes(from, raw.length, to)
      twin.assembly.differences(to, raw.length, from)
      return twin.bytes(from, raw.length).slice()
    })
  const out = new Uint8Array(raw.length)
  const half = (raw.length + 1) >> 1
  for (let i = 0; i < raw.length; i++) out[i & 1 ? half + (i >> 1) : i >> 1] = raw[i]!
  for (let i = out.length - 1; i > 0; i--) out[i] = out[i]! - out[i - 1]! + 384
  return out
}
