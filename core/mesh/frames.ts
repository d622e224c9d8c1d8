import type { BakeContext, Baker } from './baker'

/** Tangent, bitangent and normal of the low surface at each sample, nine numbers; made once for those who want them. */
export function framesOf({
  surface,
  samples,
  shared,
}: Pick<BakeContext, 'surface' | 'samples' | 'shared'>): Float32Array {
  const known = shared.get('frames') as Float32Array | undefined
  if (known) return known
  const made = surface.framesOf(samples)
  shared.set('frames', made)
  return made
}

/** One axis of the frames: 0 the tangent, 1 the bitangent, 2 the normal. */
export const frameAxis =
  (axis: 0 | 1 | 2): Baker['bake'] =>
  (context) => {
    const frames = framesOf(context)
    const out = context.room(context.samples.texels.length * 3)
    for (let i = 0, from = axis * 3; i < out.length; i += 3, from += 9)
      for (let k = 0; k < 3; k++) out[i + k] = frames[from + k]!
    return out
  }
