import { sinTurns } from '#core/elementary'
import type { Mesh } from '#core/mesh/mesh'
import type { Surface } from './patches'
import { Patches, uneven } from './patches'

/** A cloth of 1.5 × 1.6 m that hangs over a pole along X; its folds are on the high twin. */
export function tarpaulin(isHigh: boolean): Mesh {
  const patches = new Patches(isHigh)
  patches.part('Cloth', 'Waxed canvas')
  patches.grid(isHigh ? 160 : 16, isHigh ? 220 : 28, isHigh ? folded : hung, [WIDE, LONG])
  return patches.finish()
}

const [WIDE, LONG, POLE] = [1.5, 1.6, 0.06]
const TOP = 0.78

/** Over the pole in an arc, then down, a little outward. */
const hung: Surface = (s, t) => {
  const x = (s - 0.5) * WIDE
  const along = (0.5 - t) * LONG
  const [side, from] = [along < 0 ? -1 : 1, Math.abs(along)]
  const arc = POLE * (Math.PI / 2 - 0.12)
  if (from <= arc) {
    const angle = from / POLE / (2 * Math.PI)
    return [x, TOP + POLE * sinTurns(0.25 - angle), side * POLE * sinTurns(angle)]
  }
  const angle = arc / POLE / (2 * Math.PI)
  const [y, z] = [TOP + POLE * sinTurns(0.25 - angle), POLE * sinTurns(angle)]
  const down = from - arc
  return [x, y - down * 0.985, side * (z + down * 0.17 + 0.05 * (down / 0.75) ** 2)]
}

/** Folds grow from the pole downward. */
const folded: Surface = (s, t) => {
  const [x, y, z] = hung(s, t)
  const side = t > 0.5 ? -1 : 1
  const down = Math.max(0, Math.abs(0.5 - t) * LONG - 0.06)
  const deep = 0.035 * Math.min(1, down / 0.5)
  const folds = sinTurns(x * 4.2 + 0.06 * sinTurns(down * 1.5 + x) + (side < 0 ? 0.3 : 0))
  const small = 0.003 * uneven(x * 2.1, y * 2.7, side)
  return [x + 0.004 * sinTurns(down * 2.3 + x * 3), y, z + side * (deep * (folds * 0.5 + 0.5) + small)]
}
