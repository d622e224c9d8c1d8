import type { OptionalChannel } from '../document/channel'
import strength from '../document/optional/strength'
import type { FilePlan, Slot } from './packing'

/** Slots and files that several packings share. */
export const fromChannel = (channel: string, component = 0, invert = false): Slot => ({ channel, component, invert })

/** From a channel that a material may have, else what stands for it. */
export const optional = ({ id, backdrop }: OptionalChannel): Slot => ({ ...fromChannel(id), otherwise: backdrop })

export const ofColour = (channel: string): [Slot, Slot, Slot] => [
  fromChannel(channel, 0),
  fromChannel(channel, 1),
  fromChannel(channel, 2),
]

/** The specular colour of older renderers with its strength in alpha. */
export const specularWithStrength: Pick<FilePlan, 'map' | 'transfer' | 'slots'> = {
  map: 'specular',
  transfer: 'srgb',
  slots: [...ofColour('specular-tint'), optional(strength)],
}

const png = { format: 'png', bits: 8 } as const

export const colourWithOpacity: FilePlan = {
  ...png,
  map: 'colour',
  transfer: 'srgb',
  slots: [...ofColour('colour'), fromChannel('opacity')],
}

export const emission: FilePlan = {
  ...png,
  map: 'emission',
  transfer: 'srgb',
  slots: ofColour('emission'),
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
