import { createField } from '../field/field'
import { randomNumbers } from '../testing/random-values'
import { ownRoom } from './baking-room'
import { throughFrames } from './frames'
import { intoTangentFrames, normalsWhereMet } from './tangent-frames'

test('directions of samples come into frames as those of fields do, bit for bit, also where a frame is flat', () => {
  const count = 500
  const random = randomNumbers(3)
  const triples = (): Float32Array => Float32Array.from({ length: count * 3 }, () => random() * 2 - 1)
  const [tangents, bitangents, normals, directions] = [triples(), triples(), triples(), triples()]
  tangents.fill(0, 0, 30)
  const field = (values: Float32Array) => {
    const made = createField('colour', count, 1)
    made.planes.forEach((plane, k) => plane.set(values.filter((_, i) => i % 3 === k)))
    return made
  }
  const out = createField('normal', count, 1)
  const frames = { tangent: field(tangents), bitangent: field(bitangents), low: field(normals) }
  throughFrames(field(directions), frames, out, { from: 0, to: 1, check: () => {} }, 'in')
  const found = intoTangentFrames({ tangents, bitangents, normals }, directions, { from: 0, apart: 3 }, ownRoom)
  expect([0, 1, 2].map((k) => found.filter((_, i) => i % 3 === k))).toEqual(out.planes.map((plane) => plane.slice()))
})

test('normals are taken out of places where something was met', () => {
  const places = Float32Array.of(1, 2, 3, 0, 1, 0, 4, 5, 6, 0, 0, 1)
  expect([...normalsWhereMet(places, Float32Array.of(0.5, NaN), ownRoom)]).toEqual([0, 1, 0, NaN, NaN, NaN])
})
