import { z } from 'zod'
import type { BakeOptions } from './baker'
import { standardOptions } from './bake-part'
import type { Mesh } from './mesh'
import { SAMPLE_COUNTS } from './raster'

/** Sizes that mesh data are baked at, in texels a side. */
export const BAKE_SIZES = [32, 64, 128, 256, 512, 1024, 2048, 4096, 8192] as const

/** Texels from one to the next that rays are sent from: a draft leaves some out. */
export const RAY_STEPS = [1, 2, 4, 6] as const

const metres = z.number().min(1e-9).max(1e6).nullable()
const turns = z.number().min(0).max(0.25)

/**
 * How the mesh data of a model are baked. Lengths in metres; null is what the size of the model gives (standardOptions).
 */
export const bakeSettings = z.strictObject({
  size: z.union(BAKE_SIZES.map((size) => z.literal(size)) as never) as z.ZodType<(typeof BAKE_SIZES)[number]>,
  samples: z.union(SAMPLE_COUNTS.map((count) => z.literal(count)) as never) as z.ZodType<
    (typeof SAMPLE_COUNTS)[number]
  >,
  rays: z.int().min(1).max(4096),
  rayStep: z.union(RAY_STEPS.map((count) => z.literal(count)) as never) as z.ZodType<(typeof RAY_STEPS)[number]>,
  padding: z.int().min(0).max(512),
  uvSet: z.int().min(0).max(7),
  /** What lies outside of 0–1: tiles of their own (UDIM), or repeats of the first, which are left out. */
  outside: z.enum(['tiles', 'repeats']),
  reach: metres,
  fade: z.number().min(0).max(1),
  bias: metres,
  spreadTurns: turns,
  coneTurns: turns,
  thickest: metres,
  radius: metres,
  front: metres,
  back: metres,
  leakLength: metres,
  leakVariation: z.number().min(0).max(1),
  sunHeightTurns: turns,
  sunTurns: z.number().min(0).max(1),
  sunShare: z.number().min(0).max(1),
  transferFrom: z.int().min(0).max(1),
  transferBy: z.int().min(0).max(1),
  transferSet: z.int().min(0).max(7),
  /** The image that is transferred, by its hash; null is none. */
  transferImage: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .nullable(),
})

export type BakeSettings = z.output<typeof bakeSettings>

/** Settings of a new model. */
export const STANDARD_SETTINGS: BakeSettings = {
  size: 1024,
  samples: 4,
  rays: 64,
  rayStep: 1,
  padding: 16,
  uvSet: 0,
  outside: 'tiles',
  reach: null,
  fade: 0,
  bias: null,
  spreadTurns: 0.25,
  coneTurns: 1 / 6,
  thickest: null,
  radius: null,
  front: null,
  back: null,
  leakLength: null,
  leakVariation: 0.6,
  sunHeightTurns: 0.11,
  sunTurns: 0.13,
  sunShare: 0.6,
  transferFrom: 1,
  transferBy: 0,
  transferSet: 0,
  transferImage: null,
}

/** Qualities by name: samples a texel, rays a texel that they share, and how far apart rays are sent from. */
export const QUALITIES = {
  draft: { samples: 1, rays: 16, rayStep: 6 },
  good: { samples: 4, rays: 64, rayStep: 1 },
  final: { samples: 16, rays: 128, rayStep: 1 },
} as const satisfies Record<string, Pick<BakeSettings, 'samples' | 'rays' | 'rayStep'>>

export type Quality = keyof typeof QUALITIES

/** Widest picture of a draft that is made unasked. */
const DRAFT_SIZE = 256

/** Settings to have something at once: few texels, and few rays for each. */
export const draftOf = (settings: BakeSettings): BakeSettings => ({
  ...settings,
  ...QUALITIES.draft,
  // So few texels that each has its rays.
  rayStep: 1,
  size: BAKE_SIZES.filter((one) => one <= Math.min(DRAFT_SIZE, settings.size)).at(-1) ?? settings.size,
})

/** The quality that settings amount to; null where it has no name. */
export const qualityOf = (settings: Pick<BakeSettings, 'samples' | 'rays' | 'rayStep'>): Quality | null =>
  (Object.keys(QUALITIES) as Quality[]).find((name) =>
    (['samples', 'rays', 'rayStep'] as const).every((key) => QUALITIES[name][key] === settings[key]),
  ) ?? null

/** The options of settings for a model. */
export function optionsFor(settings: BakeSettings, mesh: Pick<Mesh, 'positions' | 'triangles'>): BakeOptions {
  const standard = standardOptions(mesh)
  const given = Object.fromEntries(
    Object.keys(standard).flatMap((name) => {
      const value = settings[name as keyof BakeOptions & keyof BakeSettings]
      return value === null || value === undefined ? [] : [[name, value]]
    }),
  )
  return { ...standard, ...given }
}
