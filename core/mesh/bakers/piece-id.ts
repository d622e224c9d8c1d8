import type { Baker } from '../baker'

const pieceId: Baker = {
  name: 'piece-id',
  title: 'Piece',
  help: 'The number of the connected piece of the part, in the order of the file, from 1; 0 where nothing is.',
  type: 'id',
  order: 22,
  reads: 'part',
  uses: [],
  empty: [0],
  bake: ({ surface, samples, room }) => {
    const { pieces } = surface
    const { triangles } = samples
    const out = room(triangles.length)
    for (let i = 0; i < out.length; i++) out[i] = pieces[triangles[i]!]! + 1
    return out
  },
}
export default pieceId
