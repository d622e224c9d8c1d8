import { cosTurns, sinTurns } from '#core/elementary'
import type { Mesh } from '#core/mesh/mesh'
import type { Point, Surface } from './patches'
import { Patches, along, lengthOf, moved, rounded, stopsOf, turned, uneven } from './patches'

const RADIUS = 0.34
const TURN = 2 * Math.PI
const HOOPS = [0.28, 0.62]
/** The wall between the chamfers, hoops and all: radius and height. */
const WALL: readonly (readonly [number, number])[] = [
  [RADIUS, 0.05],
  ...HOOPS.flatMap((y): [number, number][] => [
    [RADIUS, y - 0.035],
    [RADIUS + 0.018, y - 0.02],
    [RADIUS + 0.018, y + 0.02],
    [RADIUS, y + 0.035],
  ]),
  [RADIUS, 0.87],
]
const BOTTOM: readonly (readonly [number, number])[] = [
  [0, 0],
  [RADIUS - 0.05, 0],
  [RADIUS, 0.05],
]
const TOP: readonly (readonly [number, number])[] = [
  [RADIUS, 0.87],
  [RADIUS - 0.05, 0.92],
  [0, 0.92],
]
const RIVETS = { around: 32, radius: 0.009, rows: [0.09, 0.225, 0.335, 0.565, 0.675, 0.83] }
const EYE = { radius: 0.05, tube: 0.012, up: 0.955 }

/** The float: a riveted drum 0.92 m high with two hoops, and an eye on top. Rivets and dents are on the high twin alone. */
export function floatDrum(isHigh: boolean): Mesh {
  const patches = new Patches(isHigh)
  patches.part('Drum', 'Plate')
  if (isHigh) {
    const line = rounded([...BOTTOM, ...WALL.slice(1), ...TOP.slice(1)], 0.012, 4)
    const profile = along(line)
    const surface: Surface = (s, t) => {
      const [r, y] = profile(t)
      const dent = r > RADIUS - 0.03 ? 0.004 * uneven(sinTurns(s) * 0.9, y * 1.2, cosTurns(s) * 0.9) : 0
      return turned(() => [r + dent, y])(s, t)
    }
    patches.grid(192, 270, surface, [TURN * RADIUS, lengthOf(line)])
    for (const y of RIVETS.rows)
      for (let k = 0; k < RIVETS.around; k++) rivet(patches, (k + (y > 0.5 ? 0.5 : 0)) / RIVETS.around, y)
  } else {
    for (const line of [BOTTOM.slice(1), WALL, TOP.slice(0, 2)])
      patches.grid(28, stopsOf(line), turned(along(line)), [TURN * RADIUS, lengthOf(line)])
    const r = RADIUS - 0.05
    patches.disc(28, (s) => [r * sinTurns(s), 0.92, r * cosTurns(s)], [0, 0.92, 0], [0, 0, 1], [1, 0, 0])
    patches.disc(28, (s) => [r * sinTurns(s), 0, -r * cosTurns(s)], [0, 0, 0], [1, 0, 0], [0, 0, 1])
  }
  patches.part('Eye', 'Plate')
  const eye: Surface = (s, t) => {
    const away = EYE.radius + EYE.tube * cosTurns(t)
    return [away * cosTurns(s), EYE.up + away * sinTurns(s), EYE.tube * sinTurns(t)]
  }
  patches.grid(isHigh ? 96 : 20, isHigh ? 32 : 8, eye, [TURN * EYE.radius, TURN * EYE.tube])
  return patches.finish()
}

/** Half a ball on the wall. */
function rivet(patches: Patches, turn: number, y: number): void {
  const { radius } = RIVETS
  const out: Point = [sinTurns(turn), 0, cosTurns(turn)]
  const right: Point = [cosTurns(turn), 0, -sinTurns(turn)]
  const dome: Surface = (s, t) => {
    const [r, h] = [radius * cosTurns(t / 4), radius * 0.7 * sinTurns(t / 4) - 0.002]
    const [a, b] = [r * cosTurns(s), r * sinTurns(s)]
    return [right[0] * a + out[0] * h, b, right[2] * a + out[2] * h]
  }
  patches.grid(12, 5, moved(dome, [out[0] * RADIUS, y, out[2] * RADIUS]), [TURN * radius, radius])
}
