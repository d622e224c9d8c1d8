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
  bake: ({ surface, samples }) => {
    const { of } = surface.islands
    return Float32Array.from(samples.triangles, (triangle) => of[triangle]! + 1)
  },
}
export default islandId
