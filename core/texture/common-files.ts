import type { FilePlan, Slot } from './packing'

/** Slots and files that several packings share. */
export const fromChannel = (channel: string, component = 0, invert = false): Slot => ({ channel, component, invert })

/** From a channel that a material may have of its own, else a constant. */
export const ownOr = (channel: string, otherwise: number): Slot => ({ ...fromChannel(channel), otherwise })

const png = { format: 'png', bits: 8 } as const

export const colourWithOpacity: FilePlan = {
  ...png,
  map: 'colour',
  transfer: 'srgb',
  slots: [fromChannel('colour', 0), fromChannel('colour', 1), fromChannel('colour', 2), fromChannel('opacity')],
}

export const emission: FilePlan = {
  ...png,
  map: 'emission',
  transfer: 'srgb',
  slots: [fromChannel('emission', 0), fromChannel('emission', 1), fromChannel('emission', 2)],
}

export const occlusion: FilePlan = { ...png, map: 'occlusion', transfer: 'raw', slots: [fromChannel('occlusion')] }

/** Y down is the same normal with green inverted: 1 − (n·0.5 + 0.5) = (−n)·0.5 + 0.5. */
export const normal = (y: 'up' | 'down'): FilePlan => ({
  ...png,
  map: 'normal',
  transfer: 'raw',
  slots: [fromChannel('normal', 0), fromChannel('normal', 1, y === 'down'), fromChannel('normal', 2)],
})

/** R occlusion, G roughness, B metallic: the layout of glTF 2.0, sections 3.9.2 and 3.9.3. */
export const occlusionRoughMetal: FilePlan = {
  ...png,
  map: 'occlusion-rough-metal',
  transfer: 'raw',
  slots: [fromChannel('occlusion'), fromChannel('roughness'), fromChannel('metallic')],
}
