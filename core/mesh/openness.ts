import { opennessOf, sharedFan, skylightOf } from '../kernels/ray-tree'
import type { BakeContext } from './baker'
import { seenSamples } from './high'

/** A quarter turn: rays over the whole hemisphere. */
export const HEMISPHERE = 0.25

const nameOf = (spreadTurns: number): string => `openness ${spreadTurns}`

/** Openness of samples and the sum of open directions, five numbers each (kernels/ray-tree.ts); made once for those who want the same. */
export function openness(context: BakeContext, spreadTurns: number): Float32Array {
  const { scene, options, perTexel, shared } = context
  const name = nameOf(spreadTurns)
  const known = shared.get(name) as Float32Array | undefined
  if (known) return known
  const { rays, bias, reach, fade } = options
  const fan = { ...sharedFan(rays, perTexel, spreadTurns), bias, most: reach, fade }
  const made = opennessOf(scene.tree, seenSamples(context), fan)
  shared.set(name, made)
  return made
}

/**
 * The share of an even sky that samples see: of the same rays as their openness, those that go up. Where that is known nothing is traced
 * again.
 */
export function skylight(context: BakeContext): Float32Array {
  const { scene, options, perTexel, shared, room } = context
  const known = shared.get(nameOf(HEMISPHERE)) as Float32Array | undefined
  if (!known) {
    const { rays, bias, reach } = options
    return skylightOf(scene.tree, seenSamples(context), { ...sharedFan(rays, perTexel, HEMISPHERE), bias, most: reach })
  }
  const out = room(known.length / 5)
  for (let i = 0; i < out.length; i++) out[i] = known[i * 5 + 4]!
  return out
}
