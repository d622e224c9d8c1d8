import { CHANNELS, DERIVED_CHANNELS } from '../document/channels'
import type { RecordFile } from './record'

type Slots = RecordFile['slots']
/** What a file is taken to hold: its slots, fewer than it has channels where the rest hold nothing. */
export interface Role {
  readonly transfer: RecordFile['transfer']
  readonly slots: Slots
}

export const heldSlot = (channel: string | null, component = 0, inverted = false): Slots[number] => ({
  channel,
  component,
  inverted,
  constant: null,
  min: 0,
  max: 1,
})
/** The slots of a colour, or of a normal. */
export const threeSlots = (channel: string): Slots => [0, 1, 2].map((component) => heldSlot(channel, component))
const raw = (...slots: Slots): Role => ({ transfer: 'raw', slots })

/** Words for maps in file names, common practice; a name is read from its end, as the map usually stands last. */
const WORDS: Readonly<Record<string, Role>> = {
  ...Object.assign(
    {},
    ...[...CHANNELS, ...DERIVED_CHANNELS].map(({ id, type, transfer, fileWords = [], invertedFileWords = [] }) => ({
      ...named(fileWords, { transfer, slots: type === 'grey' ? [heldSlot(id)] : threeSlots(id) }),
      ...named(invertedFileWords, raw(heldSlot(id, 0, true))),
    })),
  ),
  // As the glTF extension KHR_materials_pbrSpecularGlossiness has it: gloss in alpha, where there is one.
  ...named(['specular', 'spec', 'speculargloss', 'specularglossiness'], {
    transfer: 'srgb',
    slots: [...threeSlots('specular'), heldSlot('roughness', 0, true)],
  }),
  ...named(['orm', 'arm'], raw(heldSlot('occlusion'), heldSlot('roughness'), heldSlot('metallic'))),
  ...named(['rma'], raw(heldSlot('roughness'), heldSlot('metallic'), heldSlot('occlusion'))),
  ...named(['mra'], raw(heldSlot('metallic'), heldSlot('roughness'), heldSlot('occlusion'))),
}
/** Channels whose words may stand together: "occlusion-rough-metal" is what R, G and B hold. */
const GREY = CHANNELS.filter(({ type }) => type === 'grey').map(({ id }) => id)

function named(words: readonly string[], role: Role): Record<string, Role> {
  return Object.fromEntries(words.map((word) => [word, role]))
}

/** What a file holds by its name; null where no word of it tells. Letter case and what joins words do not matter. */
export function roleOfName(name: string): Role | null {
  const words = name
    .replace(/\.[^.]*$/, '')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^a-z]+/)
    .filter((word) => word !== '')
  const joined = words.slice(-2).join('')
  if (Object.hasOwn(WORDS, joined)) return WORDS[joined]!
  const found = words.flatMap((word) => (Object.hasOwn(WORDS, word) ? [WORDS[word]!] : []))
  const last = found.at(-1)
  if (!last) return null
  const greys = found.filter(({ slots }) => slots.length === 1 && GREY.includes(slots[0]!.channel!))
  return greys.length > 1 && greys.length === found.length ? raw(...greys.flatMap(({ slots }) => slots)) : last
}
