import { ownSettings } from '#core/document/own-settings'
import { sharpening } from '#core/document/sharpening'
import { z } from 'zod'
import { recall, remember } from '../../ui/browser-storage'
import type { MakeSettings } from './maps'
import { STANDARD } from './maps'

const stored = z.object({
  packing: z.string().optional(),
  settings: z
    .object({
      width: z.int().min(1).max(16384),
      dither: z.boolean(),
      sharpen: sharpening,
      own: ownSettings.default({ layers: {} }),
    })
    .optional(),
})

const key = (document: string): string => `amber-grist-maps:${document}`

/** How this browser last made maps of a material. */
export function recallSettings(document: string): { packing: string | null; settings: MakeSettings } {
  const found = recall(key(document), stored)
  return { packing: found?.packing ?? null, settings: found?.settings ?? STANDARD }
}

export function rememberSettings(document: string, change: { packing?: string; settings?: MakeSettings }): void {
  const { packing, settings } = recallSettings(document)
  remember(key(document), { ...(packing ? { packing } : {}), settings, ...change })
}
