import { cosTurns, sinTurns } from '#core/elementary'
import type { Mesh } from '#core/mesh/mesh'
import type { Surface } from './patches'
import { Patches, flat, moved } from './patches'

const [WIDE, HIGH, DEEP] = [0.24, 1, 0.014]
/** How far its edges are rounded, and figures raised, on the high twin. */
const [BEVEL, RAISED] = [0.004, 0.0028]

/** Strokes of figures: seven bars, numbered from the top one clockwise, the middle one last. */
const BARS = ['abcdef', 'bc', 'abged', 'abgcd', 'fgbc', 'afgcd', 'afgedc', 'abc', 'abcdefg', 'abcdfg']

/** A board with figures for each tenth of a metre, standing 1 m high and facing +Z. Figures, bevels and bolts are on the high twin. */
export function depthBoard(isHigh: boolean): Mesh {
  const patches = new Patches(isHigh)
  patches.part('Board', 'Enamelled plate')
  const front: Surface = (s, t) => [(s - 0.5) * WIDE, t * HIGH, DEEP]
  if (isHigh) {
    const raised: Surface = (s, t) => {
      const [x, y] = [(s - 0.5) * WIDE, t * HIGH]
      const edge = Math.min(WIDE / 2 - Math.abs(x), y, HIGH - y)
      const fall = edge < BEVEL ? BEVEL - Math.sqrt(Math.max(0, BEVEL ** 2 - (BEVEL - edge) ** 2)) : 0
      return [x, y, DEEP - fall + RAISED * figureAt(x, y)]
    }
    patches.grid(120, 420, raised, [WIDE, HIGH])
    for (const x of [-1, 1]) for (const y of [0.03, HIGH - 0.03]) bolt(patches, x * (WIDE / 2 - 0.025), y)
  } else patches.grid(1, 1, front, [WIDE, HIGH])
  const top = isHigh ? DEEP - BEVEL : DEEP
  const side = isHigh ? 24 : 1
  patches.grid(1, 1, flat([WIDE / 2, 0, 0], [-WIDE, 0, 0], [0, HIGH, 0]), [WIDE, HIGH])
  patches.grid(1, side, flat([WIDE / 2, 0, top], [0, 0, -top], [0, HIGH, 0]), [top, HIGH])
  patches.grid(1, side, flat([-WIDE / 2, 0, 0], [0, 0, top], [0, HIGH, 0]), [top, HIGH])
  patches.grid(side, 1, flat([-WIDE / 2, HIGH, top], [WIDE, 0, 0], [0, 0, -top]), [WIDE, top])
  patches.grid(side, 1, flat([-WIDE / 2, 0, 0], [WIDE, 0, 0], [0, 0, top]), [WIDE, top])
  return patches.finish()
}

/** 1 on a figure or a mark, 0 beside it, soft between. */
export function figureAt(x: number, y: number): number {
  const row = Math.floor(y / 0.1)
  const [u, v] = [(x + 0.02) / 0.05, (y - row * 0.1 - 0.05) / 0.06]
  const marks = [0.001, 0.05].map((at) => bar(x - 0.085, y - row * 0.1 - at, at < 0.01 ? 0.03 : 0.018, 0.003))
  const strokes = [...(BARS[row] ?? '')].map((name) => strokeAt(name, u, v))
  return Math.max(0, ...marks, ...strokes)
}

/** A stroke of a figure in a box of −0.5 to 0.5. */
function strokeAt(name: string, u: number, v: number): number {
  const across = { a: 0.5, g: 0, d: -0.5 }[name]
  if (across !== undefined) return bar(u * 0.05, (v - across) * 0.06, 0.02, 0.005)
  const right = name === 'b' || name === 'c' ? 0.5 : -0.5
  const middle = name === 'b' || name === 'f' ? 0.25 : -0.25
  return bar((u - right) * 0.05, (v - middle) * 0.06, 0.005, 0.016)
}

/** A bar about the middle, so many metres to its ends, with soft edges. */
function bar(x: number, y: number, wide: number, high: number): number {
  const inside = Math.min(wide - Math.abs(x), high - Math.abs(y))
  const t = Math.min(1, Math.max(0, inside / 0.0025 + 0.5))
  return t * t * (3 - 2 * t)
}

function bolt(patches: Patches, x: number, y: number): void {
  const dome: Surface = (s, t) => {
    const [r, h] = [0.009 * cosTurns(t / 4), 0.005 * sinTurns(t / 4) - 0.001]
    return [r * cosTurns(s), r * sinTurns(s), h]
  }
  patches.grid(24, 8, moved(dome, [x, y, DEEP]), [0.05, 0.01])
}
