import type { StageView } from '../../session/view'

/** Radiance along a direction, in linear light; 1 is white paper in the open. */
export type Radiance = (x: number, y: number, z: number) => [number, number, number]

export interface Environment {
  readonly radiance: Radiance
  /** The strongest source as a light of its own, for crisp highlights: towards it, its colour, its strength. */
  readonly key: {
    readonly towards: readonly [number, number, number]
    readonly colour: readonly [number, number, number]
    readonly strength: number
  }
}

const mix = (a: readonly number[], b: readonly number[], ratio: number): [number, number, number] => [
  a[0]! + (b[0]! - a[0]!) * ratio,
  a[1]! + (b[1]! - a[1]!) * ratio,
  a[2]! + (b[2]! - a[2]!) * ratio,
]
const unit = ([x, y, z]: readonly number[]): [number, number, number] => {
  const length = Math.hypot(x!, y!, z!)
  return [x! / length, y! / length, z! / length]
}
const smooth = (from: number, to: number, v: number): number => {
  const t = Math.min(1, Math.max(0, (v - from) / (to - from)))
  return t * t * (3 - 2 * t)
}

/**
 * A covered sky over grey ground. Zenith three times the horizon.
 * Source: CIE S 011 (the CIE standard overcast sky), L(γ) = Lz (1 + 2 sin γ) / 3.
 */
const overcast: Radiance = (_, y) => {
  const sky = (1.5 * (1 + 2 * Math.max(0, y))) / 3
  const ground = 0.22
  const v = ground + (sky - ground) * smooth(-0.04, 0.04, y)
  return [v, v, v * 1.02]
}

const SUN = unit([-0.75, 0.42, 0.5])

/** A clear evening: a low warm sun, blue above. Own composition. */
const lowSun: Radiance = (x, y, z) => {
  const up = Math.max(0, y)
  const sky = mix([0.95, 0.72, 0.52], [0.16, 0.27, 0.5], smooth(0, 0.6, up))
  const near = x * SUN[0] + y * SUN[1] + z * SUN[2]
  const halo = 3.2 * Math.pow(Math.max(0, near), 24) + 34 * smooth(0.994, 0.998, near)
  const lit: [number, number, number] = [sky[0] + halo * 1.0, sky[1] + halo * 0.78, sky[2] + halo * 0.5]
  return mix([0.1, 0.085, 0.07], lit, smooth(-0.03, 0.03, y))
}

/** A dark room with two long lamps overhead and a tall window to the left. Own composition. */
const workshop: Radiance = (x, y, z) => {
  const room = 0.1 + 0.06 * Math.max(0, y)
  let v = room
  if (y > 0.05) {
    // Where the ray meets the ceiling.
    const across = x / y
    const along = z / y
    const lamp = (at: number): number => smooth(0.2, 0.12, Math.abs(across - at)) * smooth(1.5, 1.35, Math.abs(along))
    v += 9 * (lamp(-0.55) + lamp(0.65))
  }
  if (x < -0.2) {
    const height = y / -x
    const side = z / -x
    const pane = smooth(0.75, 0.68, Math.abs(height - 0.15)) * smooth(0.4, 0.34, Math.abs(side - 0.35))
    v += 3.2 * pane
  }
  return [v * 1.0, v * 0.99, v * 0.96]
}

/** Soft lamps of the studio: towards each, how wide it is (cosines of its edge and its full part), and how bright. */
const LAMPS = [
  // The key, large, high, from the left; a broad fill from the right; two strips behind that draw the outline.
  { towards: unit([-0.6, 0.72, 0.5]), edge: 0.84, full: 0.93, strength: 7.5 },
  { towards: unit([0.95, 0.1, 0.5]), edge: 0.55, full: 0.9, strength: 0.75 },
  { towards: unit([0.8, 0.35, -0.62]), edge: 0.9, full: 0.95, strength: 7 },
  { towards: unit([-0.9, 0.05, -0.5]), edge: 0.93, full: 0.97, strength: 3 },
] as const

/** A grey studio that shows relief and gloss at once: a key, a fill, a rim. Common practice of product photography. */
const studio: Radiance = (x, y, z) => {
  let v = 0.13 + 0.16 * smooth(-0.5, 0.9, y)
  for (const { towards, edge, full, strength } of LAMPS)
    v += strength * smooth(edge, full, x * towards[0] + y * towards[1] + z * towards[2])
  return [v * 1.0, v * 0.995, v * 0.985]
}

/** The environments of the stage, all made here. */
export const ENVIRONMENT: Record<Exclude<StageView['environment'], 'own'>, Environment> = {
  studio: { radiance: studio, key: { towards: LAMPS[0].towards, colour: [1, 0.99, 0.97], strength: 1.9 } },
  overcast: { radiance: overcast, key: { towards: unit([-0.35, 1, 0.5]), colour: [1, 1, 1], strength: 0.9 } },
  'low sun': { radiance: lowSun, key: { towards: SUN, colour: [1, 0.8, 0.55], strength: 2.6 } },
  workshop: { radiance: workshop, key: { towards: unit([-0.5, 1, 0.35]), colour: [1, 0.98, 0.94], strength: 1.1 } },
}
