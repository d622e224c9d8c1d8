import type { Baker } from '../baker'

const vertexColour: Baker = {
  name: 'vertex-colour',
  title: 'Vertex colour',
  help: 'The colours of the vertices, in linear light; white where there are none.',
  type: 'vector',
  order: 30,
  reads: 'part',
  uses: [],
  empty: [1, 1, 1],
  bake: ({ surface, samples }) => {
    const { colours } = surface.mesh
    const out = new Float32Array(samples.texels.length * 3).fill(1)
    if (!colours) return out
    for (let i = 0; i < samples.texels.length; i++) {
      const [b, c] = [samples.weights[i * 2]!, samples.weights[i * 2 + 1]!]
      const [p, q, r] = surface.verticesOf(samples.triangles[i]!)
      for (let k = 0; k < 3; k++)
        out[i * 3 + k] = colours[p * 4 + k]! * (1 - b - c) + colours[q * 4 + k]! * b + colours[r * 4 + k]! * c
    }
    return out
  },
}
export default vertexColour
