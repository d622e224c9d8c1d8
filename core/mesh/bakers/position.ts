import type { Baker } from '../baker'

const position: Baker = {
  name: 'position',
  title: 'Position',
  help: 'Where the surface is, in metres from the origin of the model: x, y (up), z.',
  type: 'vector',
  order: 7,
  reads: 'part',
  uses: [],
  empty: [0, 0, 0],
  shown: (value, plane, { box: { min, max } }) => (value - min[plane]!) / Math.max(max[plane]! - min[plane]!, 1e-9),
  bake: ({ places, samples, room }) => {
    const out = room(samples.texels.length * 3)
    for (let i = 0, from = 0; i < out.length; i += 3, from += 6) {
      out[i] = places[from]!
      out[i + 1] = places[from + 1]!
      out[i + 2] = places[from + 2]!
    }
    return out
  },
}
export default position
