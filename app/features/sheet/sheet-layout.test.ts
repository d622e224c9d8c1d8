import { CHANNELS } from '#core/document/channels'
import { shownChannels } from './sheet-layout'

const view = { size: 'small', hidden: [], order: [], onlyUsed: false } as const
const ids = (change: object, used: readonly string[] = []): string[] =>
  shownChannels(CHANNELS, { ...view, ...change }, (id) => used.includes(id)).map(({ id }) => id)

it('columns are all channels in their order, unless something else was chosen', () => {
  const all = CHANNELS.map(({ id }) => id)
  expect(ids({})).toEqual(all)
  expect(ids({ hidden: ['opacity'] })).toEqual(all.filter((id) => id !== 'opacity'))
  expect(ids({ onlyUsed: true }, ['height', 'colour'])).toEqual(all.filter((id) => ['height', 'colour'].includes(id)))
  // What was put in order comes first; what was not, as it is.
  expect(ids({ order: ['roughness', 'height'] })).toEqual([
    'roughness',
    'height',
    ...all.filter((id) => !['roughness', 'height'].includes(id)),
  ])
})
