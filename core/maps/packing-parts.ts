import type { PackedFile, Slot } from './packing'

/** Slots and files that several packings share. */
export const take = (channel: string, component = 0, invert = false): Slot => ({ channel, component, invert })

const png = { format: 'png', bits: 8 } as const

export const colourWithOpacity: PackedFile = {
  ...png,
  map: 'colour',
  transfer: 'srgb',
  slots: [take('colour', 0), take('colour', 1), take('colour', 2), take('opacity')],
}

export const emission: PackedFile = {
  ...png,
  map: 'emission',
  transfer: 'srgb',
  slots: [take('emission', 0), take('emission', 1), take('emission', 2)],
}

export const occlusion: PackedFile = { ...png, map: 'occlusion', transfer: 'raw', slots: [take('occlusion')] }

/** Y down is the same normal with green inverted: 1 − (n·0.5 + 0.5) = (−n)·0.5 + 0.5. */
export const normal = (y: 'up' | 'down'): PackedFile => ({
  ...png,
  map: 'normal',
  transfer: 'raw',
  slots: [take('normal', 0), take('normal', 1, y === 'down'), take('normal', 2)],
})

/** R occlusion, G roughness, B metallic: the layout of glTF 2.0, sections 3.9.2 and 3.9.3. */
export const occlusionRoughMetal: PackedFile = {
  ...png,
  map: 'occlusion-rough-metal',
  transfer: 'raw',
  slots: [take('occlusion'), take('roughness'), take('metallic')],
}
