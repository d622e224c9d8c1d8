import type { Baker } from '../baker'

const materialId: Baker = {
  name: 'material-id',
  title: 'Material',
  help: 'The number of the part’s material among those of the model, in the order of their first parts, from 1; 0 where a part has none.',
  type: 'id',
  order: 21,
  reads: 'part',
  uses: [],
  empty: [0],
  bake: ({ surface, samples, room }) => {
    const { mesh, part } = surface
    const names = [...new Set(mesh.parts.map(({ material }) => material).filter((one) => one !== null))]
    const number = part.material === null ? 0 : names.indexOf(part.material) + 1
    return room(samples.texels.length).fill(number)
  },
}
export default materialId
