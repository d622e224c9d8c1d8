import type { MadeImage } from './made-image'
import { hash32, unitFloat } from '#core/random'

const SIDE = 1024
/** Blades of each half; none touches another, so that each has a tone of its own. */
const BLADES = 13

const random = (n: number): number => unitFloat(hash32(n * 2654435761))

interface Blade {
  readonly foot: number
  readonly lean: number
  readonly height: number
  readonly wide: number
  readonly bow: number
}

/** A half of the picture: blades fan out from the middle of its foot. */
function bladesOf(half: number): Blade[] {
  const middle = SIDE * (0.25 + half / 2)
  return Array.from({ length: BLADES }, (_, i): Blade => {
    const at = (i - (BLADES - 1) / 2) / ((BLADES - 1) / 2)
    const r = (k: number): number => random(half * 1000 + i * 10 + k)
    return {
      foot: middle + at * SIDE * 0.095,
      lean: at * SIDE * (0.085 + 0.03 * r(0)),
      height: SIDE * (0.93 - 0.3 * at * at - 0.22 * r(1)),
      wide: SIDE * (0.0062 + 0.002 * r(2)),
      bow: at * SIDE * 0.03,
    }
  })
}

/** How much of a texel a blade covers: its middle line bends outward, its width runs out toward the tip. */
function coverOf({ foot, lean, height, wide, bow }: Blade, x: number, y: number): number {
  const t = (SIDE - y) / height
  if (t > 1) return 0
  const line = foot + lean * t * t + bow * t
  const half = wide * Math.sqrt(1 - t) * (0.75 + 0.5 * t)
  return Math.min(1, Math.max(0, half - Math.abs(x - line) + 0.5))
}

/** Blades of sedge as a cut-out: white on black, two clumps beside each other. */
export default {
  file: 'sedge-blades.png',
  width: SIDE,
  height: SIDE,
  channels: 3,
  make: () => {
    const values = new Uint8Array(SIDE * SIDE * 3)
    const blades = [...bladesOf(0), ...bladesOf(1)]
    for (let y = 0; y < SIDE; y++)
      for (let x = 0; x < SIDE; x++) {
        const cover = Math.max(...blades.map((blade) => coverOf(blade, x + 0.5, y + 0.5)))
        values.fill(Math.round(cover * 255), (y * SIDE + x) * 3, (y * SIDE + x) * 3 + 3)
      }
    return values
  },
} satisfies MadeImage
