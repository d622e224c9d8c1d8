import { cosTurns, sinTurns } from '#core/elementary'
import type { Mesh } from '#core/mesh/mesh'
import type { Surface } from './patches'
import { Patches } from './patches'

/** Clumps along the bank: where they stand, how they are turned, in metres and turns. */
const CLUMPS = [
  { at: [-0.42, 0.02], turn: 0.03, height: 0.62 },
  { at: [0.05, -0.06], turn: 0.11, height: 0.7 },
  { at: [0.46, 0.05], turn: 0.2, height: 0.56 },
] as const
/** Cards of a clump cross at its middle. */
const CARDS = 3
const WIDE = 0.52

/**
 * Sedge on a bank: clumps of three crossed cards each, bent forward a little toward their tops. Every card shows the left or the right half
 * of the picture, so that their strips lie over one another in the layout, as is usual for plants.
 */
export function sedgeBank(): Mesh {
  const patches = new Patches(false)
  patches.part('Cards', 'Sedge')
  for (const [c, { at, turn, height }] of CLUMPS.entries())
    for (let k = 0; k < CARDS; k++) {
      const angle = turn + k / (2 * CARDS)
      const [dx, dz] = [cosTurns(angle), sinTurns(angle)]
      const card: Surface = (s, t) => {
        const [out, bend] = [(s - 0.5) * WIDE, 0.09 * t * t]
        return [at[0] + out * dx - bend * dz, t * height, at[1] + out * dz + bend * dx]
      }
      const half = (c + k) % 2
      patches.grid(2, 6, card, [WIDE, height], (s, t) => [(half + 0.02 + 0.96 * s) / 2, 0.99 - 0.98 * t])
    }
  return patches.finish()
}
