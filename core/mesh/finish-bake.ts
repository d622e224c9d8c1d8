import { fillAllFrom } from '../kernels/island-planes'
import { nearestCovered } from './padding'
import type { Rims } from './seams/rims'
import { fillRims } from './seams/rims'

/**
 * What is done to mesh data once all of its rows are baked. Each entry of the lists is one block; they are done one list after the other.
 * Arrays may lie in memory that threads share.
 */
export type FinishWork =
  | {
      readonly step: 'rims'
      readonly width: number
      readonly rims: Rims
      /** Kinds whose texels about borders of islands have what lies where the surface goes on; `known` tells of which it was found. */
      readonly blocks: readonly {
        readonly planes: readonly Float32Array[]
        readonly known: Uint8Array
        readonly turned: boolean
        readonly unit: boolean
      }[]
    }
  | {
      readonly step: 'nearest'
      readonly width: number
      readonly padding: number
      /** Of each texel the nearest that is known, as nearestCovered finds it. */
      readonly blocks: readonly { readonly known: Uint8Array; readonly nearest: Int32Array }[]
    }
  | {
      readonly step: 'pad'
      readonly width: number
      /** Some rows of all planes of which texels have the same nearest. */
      readonly blocks: readonly {
        readonly planes: readonly Float32Array[]
        readonly nearest: Int32Array
        readonly from: number
        readonly to: number
      }[]
    }

/** Does one block on this thread. */
export function finishBlock(work: FinishWork, number: number): void {
  const { width } = work
  if (work.step === 'rims') {
    const { planes, known, turned, unit } = work.blocks[number]!
    fillRims(work.rims, planes, known, width, { turned, unit })
  } else if (work.step === 'nearest') {
    const { known, nearest } = work.blocks[number]!
    nearestCovered(known, width, known.length / width, work.padding, nearest)
  } else {
    const { planes, nearest, from, to } = work.blocks[number]!
    fillAllFrom(planes, nearest, from, to, width)
  }
}
