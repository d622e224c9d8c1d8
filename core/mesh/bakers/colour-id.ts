import type { Baker } from '../baker'

const colourId: Baker = {
  name: 'colour-id',
  title: 'Colour number',
  help: 'The number of the vertex colour, in the order of the file, from 1, told apart by 8 bits a channel; 0 where there are none. Between corners the nearest counts.',
  type: 'id',
  order: 24,
  reads: 'part',
  uses: [],
  empty: [0],
  bake: ({ surface, samples: { triangles, weights }, room }) => {
    const numbers = surface.colourNumbers
    const out = room(triangles.length).fill(0)
    if (!numbers) return out
    for (let i = 0; i < out.length; i++) {
      const [b, c] = [weights[i * 2]!, weights[i * 2 + 1]!]
      const a = 1 - b - c
      const corner = a >= b && a >= c ? 0 : b >= c ? 1 : 2
      out[i] = numbers[surface.verticesOf(triangles[i]!)[corner]!]!
    }
    return out
  },
}
export default colourId
