import type { Baker } from '../baker'

const partId: Baker = {
  name: 'part-id',
  title: 'Part',
  help: 'The number of the part, from 1; 0 where nothing is.',
  type: 'id',
  order: 20,
  reads: 'part',
  uses: [],
  empty: [0],
  bake: ({ surface, samples, room }) => {
    const { mesh, part } = surface
    return room(samples.texels.length).fill(mesh.parts.indexOf(part) + 1)
  },
}
export default partId
