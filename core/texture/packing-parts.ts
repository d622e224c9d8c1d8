import type { FilePlan, Slot } from './packing'

/** Slots and files that several packings share. */
export const take = (channel: string, component = 0, invert = false): Slot => ({ channel, component, invert })

const png = { format: 'png', bits: 8 } as const

export const colourWithOpacity: FilePlan = {
  ...png,
  map: 'colour',
  transfer: 'srgb',
  slots: [take('colour', 0), take('colour', 1), take('colour', 2), take('opacity')],
}

export const emission: FilePlan = {
  ...png,
  map: 'emission',
  transfer: 'srgb',
  slots: [take('emission', 0), take('emission', 1), take('emission', 2)],
}

export const occlusion: FilePlan = { ...png, map: 'occlusion', transfer: 'raw', slots: [take('occlusion')] }

/** Y down is the same normal with green inverted: 1 − (n·0.5 + 0.5) = (−n)·0.5 + 0.5. */
export const normal = (y: 'up' | 'down'): FilePlan => ({
  ...png,
  map: 'normal',
  transfer: 'raw',
  slots: [take('normal', 0), take('normal', 1, y === 'down'), take('normal', 2)],
})

/** R occlusion, G roughness, B metallic: the layout of glTF 2.0, sections 3.9.2 and 3.9.3. */
export const occlusionRoughMetal: FilePlan = {
  ...png,
  map: 'occlusion-rough-metal',
  transfer: 'raw',
  slots: [take('occlusion'), take('roughness'), take('metallic')],
}
