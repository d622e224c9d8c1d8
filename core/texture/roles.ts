import { CHANNELS } from '../document/channels'
import type { RasterImage } from '../field/pyramid'
import type { RecordFile } from './record'

type Slots = RecordFile['slots']
/** What a file is taken to hold. */
export interface Role {
  readonly transfer: RecordFile['transfer']
  readonly slots: Slots
}

const slot = (channel: string | null, component = 0, inverted = false): Slots[number] => ({
  channel,
  component,
  inverted,
  constant: null,
  min: 0,
  max: 1,
})
const three = (channel: string): Slots => [0, 1, 2].map((component) => slot(channel, component))
const raw = (...slots: Slots): Role => ({ transfer: 'raw', slots })

/** Words for maps in file names, common practice; a name is read from its end, as the map usually stands last. */
const WORDS: Readonly<Record<string, Role>> = {
  ...Object.assign(
    {},
    ...CHANNELS.map(({ id, type, transfer, fileWords = [], invertedFileWords = [] }) => ({
      ...named(fileWords, { transfer, slots: type === 'grey' ? [slot(id)] : three(id) }),
      ...named(invertedFileWords, raw(slot(id, 0, true))),
    })),
  ),
  // As the glTF extension KHR_materials_pbrSpecularGlossiness has it: gloss in alpha, where there is one.
  ...named(['specular', 'spec', 'speculargloss', 'specularglossiness'], {
    transfer: 'srgb',
    slots: [...three('specular'), slot('roughness', 0, true)],
  }),
  ...named(['orm', 'arm'], raw(slot('occlusion'), slot('roughness'), slot('metallic'))),
  ...named(['rma'], raw(slot('roughness'), slot('metallic'), slot('occlusion'))),
  ...named(['mra'], raw(slot('metallic'), slot('roughness'), slot('occlusion'))),
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

/** What a file holds by its texels: only normals tell of themselves, as their three values are of length one, facing out. */
export function roleOfTexels({ values, channels, width, height }: RasterImage): Role | null {
  if (channels < 3) return null
  const texels = width * height
  const step = Math.max(1, Math.floor(texels / 4096))
  let alike = 0
  let looked = 0
  for (let i = 0; i < texels; i += step, looked++) {
    const [x, y, z] = [0, 1, 2].map((c) => values[i * channels + c]! * 2 - 1) as [number, number, number]
    if (z > 0 && Math.abs(Math.sqrt(x * x + y * y + z * z) - 1) < 0.06) alike++
  }
  return alike > 0.95 * looked ? WORDS['normal']! : null
}
