import { lookAround } from '../around'
import type { Baker } from '../baker'

/** Least turn of a mean normal that counts: what is flat within rounding is 0. */
const FLAT = 1e-4

const roundedEdge: Baker = {
  name: 'rounded-edge',
  title: 'Rounded edge',
  help: 'How far the mean normal within the radius turns from that of the surface, 0–1: positive at edges that bulge, negative in corners.',
  type: 'grey',
  order: 6,
  reads: 'model',
  uses: ['radius'],
  empty: [0],
  shown: (value) => 0.5 + value / 2,
  bake: (context) => {
    const { curvature, normals } = lookAround(context)
    const { places } = context
    return curvature.map((bend, i) => {
      const n = normals.subarray(i * 3, i * 3 + 3)
      const length = Math.sqrt(n[0]! ** 2 + n[1]! ** 2 + n[2]! ** 2)
      if (length === 0) return 0
      const cosine = (n[0]! * places[i * 6 + 3]! + n[1]! * places[i * 6 + 4]! + n[2]! * places[i * 6 + 5]!) / length
      // The sine of half the angle, times √2: 1 at a right angle.
      const turn = Math.sqrt(Math.max(0, 1 - cosine))
      return turn < FLAT ? 0 : Math.min(1, turn) * (bend < 0 ? -1 : 1)
    })
  },
}
export default roundedEdge
