import { produce } from 'immer'
import { z } from 'zod'
import { BLEND_MODES } from '../kernels/blend'
import type { Cell, MaterialDocument } from './document'
import { findLayer, findPlain } from './edits/layers'
import { applyPreset } from './edits/presets'

const id = z.string().max(64)
const blend = z.enum([...BLEND_MODES, 'replace', 'combine'])

/** What is another way in one delivery, the material staying as it is: a variation of its dials, layers by their ids. */
export const ownSettings = z.strictObject({
  /** A preset of the dials. */
  preset: id.optional(),
  layers: z
    .record(
      id,
      z.strictObject({
        off: z.boolean().optional(),
        amount: z.number().min(0).max(1).optional(),
        /** By channel. */
        blends: z.record(id, blend).optional(),
      }),
    )
    .default({}),
})
export type OwnSettings = z.output<typeof ownSettings>
export type OwnLayer = OwnSettings['layers'][string]

/** Whether a delivery has settings of its own. */
export const hasOwn = ({ preset, layers }: OwnSettings): boolean =>
  preset !== undefined || Object.values(layers).some((layer) => Object.keys(layer).length > 0)

/**
 * The document with a delivery's own settings written in; a variation goes into its name too, so that files tell it. What names
 * something that is not there any more is passed by.
 */
export function withOwnSettings(document: MaterialDocument, own: OwnSettings): MaterialDocument {
  if (!hasOwn(own)) return document
  return produce(document, (draft) => {
    const { preset } = own
    if (preset !== undefined && Object.hasOwn(draft.presets, preset)) {
      applyPreset(draft, preset)
      draft.name = `${draft.name}, ${draft.presets[preset]!.name}`
    }
    for (const [layerId, { off, amount, blends = {} }] of Object.entries(own.layers)) {
      const layer = findLayer(draft, layerId)
      if (!layer) continue
      if (off === true) layer.off = true
      else if (off === false) delete layer.off
      if (amount !== undefined) layer.amount = amount
      const cells = findPlain(draft, layerId)?.cells ?? {}
      for (const [channel, mode] of Object.entries(blends))
        if (Object.hasOwn(cells, channel)) cells[channel]!.blend = mode as Cell['blend']
    }
  })
}

/** The same settings with others for one layer; what is as in the material is no member. */
export function withOwnLayer(own: OwnSettings, layer: string, change: OwnLayer): OwnSettings {
  const next = Object.fromEntries(
    Object.entries({ ...own.layers[layer], ...change }).filter(([, value]) => value !== undefined),
  ) as OwnLayer
  const others = Object.fromEntries(Object.entries(own.layers).filter(([id]) => id !== layer))
  return { ...own, layers: Object.keys(next).length > 0 ? { ...others, [layer]: next } : others }
}
