import { CHANNELS, channelsOf } from '../document/channels'
import { channels } from '../document/channels/channels.generated'
import { planeCount } from '../field/field'
import { checks } from './rules/rules.generated'

test.each(CHANNELS.map((channel) => [channel.id, channel] as const))(
  '%s: what its descriptor says fits together',
  (_, channel) => {
    expect(channel.backdrop).toHaveLength(planeCount(channel.type))
    const [low, high] = channel.range
    for (const value of channel.backdrop) {
      expect(value).toBeGreaterThanOrEqual(low)
      expect(value).toBeLessThanOrEqual(high)
    }
    const names = checks.map(({ name }) => name)
    for (const name of channel.checks ?? []) expect(names).toContain(name)
    const { ranges = [], metals } = channel.plausible ?? {}
    for (const { from, to } of metals ? [...ranges, metals] : ranges) expect(from).toBeLessThan(to)
  },
)

test('ids, places in lists and words in file names are told once', () => {
  const once = (values: readonly unknown[]): void => expect(new Set(values).size).toBe(values.length)
  once(channels.map(({ id }) => id))
  once(channels.map(({ order }) => order))
  once(channels.flatMap(({ fileWords = [], invertedFileWords = [] }) => [...fileWords, ...invertedFileWords]))
})

test('glTF 2.0, section 3.9.2: base colour and emission are sRGB, everything else is linear', () => {
  const encoded = CHANNELS.filter(({ transfer }) => transfer === 'srgb').map(({ id }) => id)
  expect(encoded).toEqual(['colour', 'emission'])
})

test('a material’s own channels follow the fixed ones', () => {
  const own = channelsOf({ channels: { wet: { title: 'Wetness', type: 'grey', backdrop: 0.2 } } })
  expect(own.slice(0, -1)).toEqual(CHANNELS)
  expect(own.at(-1)).toMatchObject({ id: 'wet', title: 'Wetness', type: 'grey', backdrop: [0.2], transfer: 'raw' })
})
