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
  bake: ({ surface, samples }) => {
    const pieces = surface.pieces
    return Float32Array.from(samples.triangles, (triangle) => pieces[triangle]! + 1)
  },
}
export default pieceId
