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
  bake: ({ places, samples }) => {
    const out = new Float32Array(samples.texels.length * 3)
    for (let i = 0; i < samples.texels.length; i++) out.set(places.subarray(i * 6, i * 6 + 3), i * 3)
    return out
  },
}
export default position
