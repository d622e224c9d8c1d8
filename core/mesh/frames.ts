import type { TangentFrames } from '../kernels/tangent-frames'
import type { BakeContext, Baker } from './baker'

/** Tangent, bitangent and normal of the low surface at each sample; made once for those who want them. */
export function framesOf({
  surface,
  samples,
  shared,
  room,
}: Pick<BakeContext, 'surface' | 'samples' | 'shared' | 'room'>): TangentFrames {
  const known = shared.get('frames') as TangentFrames | undefined
  if (known) return known
  const made = surface.framesOf(samples, room)
  shared.set('frames', made)
  return made
}

/** One axis of the frames. */
export const frameAxis =
  (axis: keyof TangentFrames): Baker['bake'] =>
  (context) =>
    framesOf(context)[axis]
