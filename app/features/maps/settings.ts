import { z } from 'zod'
import type { MakeSettings } from './maps'
import { STANDARD } from './maps'

const kept = z.object({
  packing: z.string().optional(),
  settings: z
    .object({ width: z.int().min(1).max(16384), dither: z.boolean(), sharpen: z.number().min(0).max(1) })
    .optional(),
})

const key = (document: string): string => `amber-grist-maps:${document}`

/** How this browser last made maps of a material. */
export function recallSettings(document: string): { packing: string | null; settings: MakeSettings } {
  try {
    const found = kept.safeParse(JSON.parse(localStorage.getItem(key(document)) ?? '{}'))
    if (found.success) return { packing: found.data.packing ?? null, settings: found.data.settings ?? STANDARD }
  } catch {
    // Without storage, or with what is not ours in it, the usual settings hold.
  }
  return { packing: null, settings: STANDARD }
}

export function rememberSettings(document: string, change: { packing?: string; settings?: MakeSettings }): void {
  const { packing, settings } = recallSettings(document)
  try {
    localStorage.setItem(key(document), JSON.stringify({ ...(packing ? { packing } : {}), settings, ...change }))
  } catch {
    // See above.
  }
}
