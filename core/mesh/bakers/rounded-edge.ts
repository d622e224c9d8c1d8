import { lookAround } from '../around'
import type { Baker } from '../baker'
import { seenSamples } from '../high'

/** Least turn of a mean normal that counts: what is flat within rounding is 0. */
const FLAT = 5e-4

const roundedEdge: Baker = {
  name: 'rounded-edge',
  title: 'Rounded edge',
  help: 'How far the mean normal within the radius turns from that of the surface, 0–1: positive at edges that bulge, negative in corners.',
  type: 'grey',
  order: 6,
  reads: 'model',
  uses: ['radius', 'front', 'back', 'rayStep'],
  sparse: true,
  empty: [0],
  shown: (value) => 0.5 + value / 2,
  bake: (context) => {
    const around = lookAround(context)
    const { places } = seenSamples(context)
    const out = new Float32Array(places.length / 6)
    for (let i = 0; i < out.length; i++) {
      const [x, y, z] = [around[i * 4 + 1]!, around[i * 4 + 2]!, around[i * 4 + 3]!]
      const length = Math.sqrt(x * x + y * y + z * z)
      if (length === 0) continue
      const cosine = (x * places[i * 6 + 3]! + y * places[i * 6 + 4]! + z * places[i * 6 + 5]!) / length
      // The sine of half the angle, times √2: 1 at a right angle.
      const turn = Math.sqrt(Math.max(0, 1 - cosine))
      out[i] = turn < FLAT ? 0 : Math.min(1, turn) * (around[i * 4]! < 0 ? -1 : 1)
    }
    return out
  },
}
export default roundedEdge
