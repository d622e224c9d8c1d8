import type { Baker } from '../baker'

const islandId: Baker = {
  name: 'island-id',
  title: 'Island',
  help: 'The number of the UV island, in the order of the file, from 1; 0 where nothing is.',
  type: 'id',
  order: 23,
  reads: 'part',
  uses: [],
  empty: [0],
  bake: ({ surface, samples, room }) => {
    const { of } = surface.islands
    const { triangles } = samples
    const out = room(triangles.length)
    for (let i = 0; i < out.length; i++) out[i] = of[triangles[i]!]! + 1
    return out
  },
}
export default islandId
