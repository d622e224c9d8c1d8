import { opennessOf, sharedFan } from '../kernels/ray-tree'
import type { BakeContext } from './baker'
import { seenSamples } from './high'

/** Openness of samples and the sum of open directions, four numbers each (kernels/ray-tree.ts); made once for those who want the same. */
export function openness(context: BakeContext, spreadTurns: number): Float32Array {
  const { scene, options, perTexel, shared } = context
  const name = `openness ${spreadTurns}`
  const known = shared.get(name) as Float32Array | undefined
  if (known) return known
  const { rays, bias, reach, fade } = options
  const fan = { ...sharedFan(rays, perTexel, spreadTurns), bias, most: reach, fade }
  const made = opennessOf(scene.tree, seenSamples(context), fan)
  shared.set(name, made)
  return made
}
