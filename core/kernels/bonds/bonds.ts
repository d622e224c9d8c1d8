import type { Bond } from './bond'
import { chevron, randomWidths, running, stack, thirdRunning } from './courses'
import { basket, diagonalHerringbone, herringbone, hexagon } from './crossed'
import { fan } from './fan'

/** Every bond by its name. */
export const BONDS = {
  stack,
  running,
  'third-running': thirdRunning,
  'random-widths': randomWidths,
  herringbone,
  'diagonal-herringbone': diagonalHerringbone,
  chevron,
  basket,
  hexagon,
  fan,
} as const satisfies Record<string, Bond>

export type BondName = keyof typeof BONDS
export const BOND_NAMES = Object.keys(BONDS) as BondName[]
