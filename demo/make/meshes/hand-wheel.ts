import { cosTurns, sinTurns } from '#core/elementary'
import type { Mesh } from '#core/mesh/mesh'
import type { Point, Surface } from './patches'
import { Patches, along, lengthOf, lying, moved, rounded, turned, uneven } from './patches'

const RIM = { radius: 0.25, tube: 0.02 }
const HUB = { radius: 0.05, half: 0.026 }
const SPOKES = 5
const BOLTS = { count: 5, circle: 0.035, radius: 0.0095, height: 0.008 }
const SPINDLE = { radius: 0.018, back: -0.13, front: 0.045 }
const TURN = 2 * Math.PI

/** The sluice's hand wheel, about 0.54 m across, facing +Z: a rim, five spokes and a hub; the spindle; five bolts. */
export function handWheel(isHigh: boolean): Mesh {
  const patches = new Patches(isHigh)
  patches.part('Wheel', 'Cast iron')
  rim(patches, isHigh)
  for (let k = 0; k < SPOKES; k++) spoke(patches, isHigh, k / SPOKES)
  lathe(
    patches,
    [
      [SPINDLE.radius, -HUB.half],
      [HUB.radius, -HUB.half],
      [HUB.radius, HUB.half],
      [SPINDLE.radius, HUB.half],
    ],
    isHigh ? { round: 0.006, columns: 96, rows: 40 } : { columns: 20 },
  )
  patches.part('Spindle', 'Steel')
  spindle(patches, isHigh)
  patches.part('Bolts', 'Steel')
  for (let k = 0; k < BOLTS.count; k++) bolt(patches, isHigh, (k + 0.5) / BOLTS.count)
  return patches.finish()
}

function rim(patches: Patches, isHigh: boolean): void {
  const surface: Surface = (s, t) => {
    const away = RIM.radius + RIM.tube * cosTurns(t)
    const [x, y, z]: Point = [away * cosTurns(s), away * sinTurns(s), RIM.tube * sinTurns(t)]
    if (!isHigh) return [x, y, z]
    // Cast in sand: not quite even.
    const out = 1 + 0.03 * uneven(x * 9, y * 9, z * 9)
    const tube = RIM.tube * out
    return [
      (RIM.radius + tube * cosTurns(t)) * cosTurns(s),
      (RIM.radius + tube * cosTurns(t)) * sinTurns(s),
      tube * sinTurns(t),
    ]
  }
  patches.grid(isHigh ? 320 : 40, isHigh ? 48 : 8, surface, [TURN * RIM.radius, TURN * RIM.tube])
}

function spoke(patches: Patches, isHigh: boolean, turn: number): void {
  const [from, to] = [HUB.radius - 0.006, RIM.radius - RIM.tube * 0.7]
  const out = [cosTurns(turn), sinTurns(turn)] as const
  const surface: Surface = (s, t) => {
    const along = from + (to - from) * t
    // Where it joins the hub and the rim it flares, on the high twin in a curve.
    const nearest = Math.min(t, 1 - t) * (to - from)
    const flare = isHigh ? 1 + 0.9 / (1 + (nearest / 0.008) ** 2) : 1 + (nearest < 0.001 ? 0.9 : 0)
    const [side, front] = [0.013 * flare * cosTurns(s), 0.009 * flare * sinTurns(s)]
    return [out[0] * along - out[1] * side, out[1] * along + out[0] * side, front]
  }
  const rows = isHigh ? 64 : 4
  patches.grid(isHigh ? 32 : 8, rows, surface, [TURN * 0.011, to - from])
}

/** A profile turned about the way to the viewer: sharp parts one by one, or rounded in one piece. */
function lathe(
  patches: Patches,
  points: readonly (readonly [number, number])[],
  { round, columns, rows = 1 }: { round?: number; columns: number; rows?: number },
): void {
  const widest = Math.max(...points.map(([r]) => r))
  if (round !== undefined) {
    const line = rounded(points, round, 4)
    patches.grid(columns, rows * 2, lying(turned(along(line))), [TURN * widest, lengthOf(line)])
    return
  }
  points.slice(1).forEach((to, i) => {
    const line = [points[i]!, to]
    patches.grid(columns, rows, lying(turned(along(line))), [TURN * Math.max(line[0]![0], to[0]), lengthOf(line)])
  })
}

function spindle(patches: Patches, isHigh: boolean): void {
  const { radius, back, front } = SPINDLE
  const points = [
    [0, back],
    [radius, back],
    [radius, front],
    [0, front],
  ] as const
  if (!isHigh) {
    lathe(patches, points.slice(1, 3), { columns: 14 })
    patches.disc(14, (s) => [radius * cosTurns(s), radius * sinTurns(s), front], [0, 0, front], [1, 0, 0], [0, 1, 0])
    patches.disc(14, (s) => [-radius * cosTurns(s), radius * sinTurns(s), back], [0, 0, back], [-1, 0, 0], [0, 1, 0])
    return
  }
  const line = rounded(points, 0.004, 4)
  const profile = along(line)
  const surface = (s: number, t: number): Point => {
    const [r, y] = profile(t)
    // A thread behind the hub.
    const depth = y < -0.035 && r > radius * 0.9 ? 0.0016 * Math.abs(((((y / 0.007 + s) % 1) + 1) % 1) - 0.5) * 2 : 0
    return turned(() => [r - depth, y])(s, t)
  }
  patches.grid(96, 360, lying(surface), [TURN * radius, lengthOf(line)])
}

/** A hexagon's distance from its middle, its corners rounded by a share. */
function hexagon(turn: number, round: number): number {
  const within = ((((turn * 6) % 1) + 1) % 1) - 0.5
  const sharp = cosTurns(1 / 12) / cosTurns(within / 6)
  return sharp * (1 - round) + round * 0.95
}

function bolt(patches: Patches, isHigh: boolean, turn: number): void {
  const { circle, radius, height } = BOLTS
  const middle: Point = [circle * cosTurns(turn), circle * sinTurns(turn), HUB.half]
  const face = (profile: (t: number) => readonly [number, number], round: number): Surface =>
    moved(
      lying((s, t) => {
        const [r, y] = profile(t)
        return turned(() => [r * hexagon(s, round), y])(s, t)
      }),
      middle,
    )
  const points = [
    [radius, -0.002],
    [radius, height],
    [0, height],
  ] as const
  if (isHigh) {
    const line = rounded(points, 0.0016, 4)
    patches.grid(72, 24, face(along(line), 0.18), [TURN * radius, lengthOf(line)])
    return
  }
  patches.grid(6, 1, face(along(points.slice(0, 2)), 0), [TURN * radius, height])
  const top = face(() => [radius, height], 0)
  const [x, y, z] = middle
  patches.disc(6, (s) => top(s, 0), [x, y, z + height], [1, 0, 0], [0, 1, 0])
}
