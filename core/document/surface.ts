import { z } from 'zod'

/** How light meets a surface: an unlit one shows its base colour as it is. */
export const SURFACE_LIGHTS = ['lit', 'unlit'] as const

/**
 * What opacity does: nothing; leaves out what is below a half; mixes with what lies behind; adds to what lies behind. Cut-out and
 * blended are the alpha modes MASK and BLEND of glTF 2.0.
 */
export const SURFACE_OPACITIES = ['opaque', 'cut-out', 'blended', 'additive'] as const

/** Whether a surface is seen from behind too. */
export const SURFACE_SIDES = ['one', 'two'] as const

const STANDARD = { light: 'lit', opacity: 'cut-out', sides: 'one' } as const

/** The kind of surface a material is for: how an engine draws it, which no map tells. */
export const surface = z
  .strictObject({
    light: z.enum(SURFACE_LIGHTS).default(STANDARD.light),
    opacity: z.enum(SURFACE_OPACITIES).default(STANDARD.opacity),
    sides: z.enum(SURFACE_SIDES).default(STANDARD.sides),
  })
  .default(STANDARD)

export type Surface = z.output<typeof surface>
