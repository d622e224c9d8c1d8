import { atan2Turns, cosTurns } from '../../elementary'
import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { any, colour, grey, meshData, normal } from '../../graph/ports'
import { bilinearReader } from '../../kernels/bilinear'
import { smoothstep } from '../../kernels/point'
import type { ProjectorPlace, Three } from '../../kernels/projector'
import { towardsProjector } from '../../kernels/projector'

/** A place of the picture, in pictures (v down), how much it counts, and how far it lies from the projector, in metres. */
interface Seen {
  readonly u: number
  readonly v: number
  readonly weight: number
}

/** How a projection sees a place: `p` turned so that it looks along −Z from the front, in metres; `n` alike. */
const SEEN: Record<string, (p: Three, n: Three, sharpness: number) => readonly Seen[]> = {
  planar: ([x, y]) => [{ u: x, v: -y, weight: 1 }],
  'three-way': ([x, y, z], [a, b, c], sharpness) => {
    const weights = [a, b, c].map((share) => steep(share * share, sharpness))
    const sum = weights[0]! + weights[1]! + weights[2]!
    return [
      { u: a < 0 ? z : -z, v: -y, weight: weights[0]! / sum },
      { u: x, v: b < 0 ? -z : z, weight: weights[1]! / sum },
      { u: c < 0 ? -x : x, v: -y, weight: weights[2]! / sum },
    ]
  },
  // Once around is a whole number of pictures, chosen so that they are about as wide as asked: see `around`.
  cylindrical: ([x, y, z]) => [{ u: atan2Turns(x, z), v: -y, weight: 1 }],
  spherical: ([x, y, z]) => [{ u: atan2Turns(x, z), v: 0.5 - 2 * atan2Turns(y, Math.sqrt(x * x + z * z)), weight: 1 }],
}

/** A share to the power of a whole number, by multiplying: the same bits everywhere. */
function steep(share: number, sharpness: number): number {
  let power = 1
  for (let i = 0; i < sharpness; i++) power *= share
  return Math.max(1e-12, power)
}

const wrapped = (t: number): number => t - Math.floor(t)

/** A field laid on the part from outside, as a projector lays a picture. Weights of the three ways: normal², to the sharpness. */
export default defineNode({
  type: 'project',
  version: 1,
  family: 'mesh',
  title: 'Project',
  summary: 'Lays a picture or a pattern on the part from outside: from one side, from three, or around it.',
  keywords: ['triplanar', 'planar', 'cylinder', 'sphere', 'decal', 'sticker', 'sign', 'three-way', 'projection'],
  params: {
    way: choice({
      default: 'three-way',
      options: ['planar', 'three-way', 'cylindrical', 'spherical'],
      help: 'From one side, from all three, or around an upright axis.',
    }),
    size: number({
      default: 0.5,
      min: 0.0001,
      max: 10000,
      softRange: [0.05, 2],
      unit: 'metre',
      help: 'Width of the picture; around an axis it is rounded so that whole pictures go once around.',
    }),
    x: number({
      default: 0,
      min: -10000,
      max: 10000,
      softRange: [-1, 1],
      unit: 'metre',
      help: 'Where its middle lies: to the right.',
    }),
    y: number({
      default: 0,
      min: -10000,
      max: 10000,
      softRange: [-1, 1],
      unit: 'metre',
      help: 'Where its middle lies: up.',
    }),
    z: number({
      default: 0,
      min: -10000,
      max: 10000,
      softRange: [-1, 1],
      unit: 'metre',
      help: 'Where its middle lies: to the front.',
    }),
    heading: number({
      default: 0,
      min: -1,
      max: 1,
      unit: 'turn',
      help: 'Which side it comes from: 0 the front, a quarter +X.',
    }),
    tilt: number({
      default: 0,
      min: -0.25,
      max: 0.25,
      unit: 'turn',
      help: 'From how high it comes: a quarter is from above.',
    }),
    turn: number({ default: 0, min: -1, max: 1, unit: 'turn', help: 'Turns the picture in its own plane.' }),
    sharpness: number({
      default: 4,
      min: 1,
      max: 32,
      visibleWhen: { way: ['three-way'] },
      help: 'How soon one side takes over from another; rounded to whole numbers.',
    }),
    repeat: choice({ default: 'repeat', options: ['repeat', 'once'], help: 'Again and again, or once: a decal.' }),
    depth: number({
      default: 0.2,
      min: 0,
      max: 10000,
      softRange: [0, 1],
      unit: 'metre',
      visibleWhen: { repeat: ['once'] },
      help: 'How far in front of its middle and behind it a decal reaches.',
    }),
    angle: number({
      default: 0.2,
      min: 0,
      max: 0.5,
      unit: 'turn',
      visibleWhen: { repeat: ['once'] },
      help: 'How far a surface may turn away and still carry the decal: a quarter is edge-on.',
    }),
  },
  inputs: {
    source: any({ help: 'What is laid on: its whole raster is the picture.' }),
    position: colour({ help: 'Places in metres.', whenUnconnected: meshData('position') }),
    normal: normal({ help: 'Normals in the model’s space.', whenUnconnected: meshData('object-normal') }),
  },
  outputs: {
    result: any({ help: 'The source as it lies on the part.' }),
    coverage: grey({ help: '1 where it lies; of a decal 0 around it.' }),
  },
  genericTypes: ['grey', 'colour', 'vector'],
  tiles: false,
  hardEdged: ['result', 'coverage'],
  footprint: 'whole',
  evaluate: ({ source, position, normal: given }, params, { result, coverage }, { width, height, rows }) => {
    const turned = projectorOf(params)
    const see = SEEN[params.way]!
    const sharpness = Math.round(params.sharpness)
    const readers = result ? source.planes.map((plane) => bilinearReader(source, plane)) : []
    const sums = new Float64Array(readers.length)
    const once = params.repeat === 'once'
    const aspect = height / width
    // The cosine at the angle, and one a little within it, so that the border is soft.
    const [edge, full] = [cosTurns(params.angle), cosTurns(Math.max(0, params.angle - 0.02))]
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const [p, n] = [rowStart(position, y), rowStart(given, y)]
      const [to, cover] = [result ? rowStart(result, y) : 0, coverage ? rowStart(coverage, y) : 0]
      for (let x = 0; x < width; x++) {
        const at = turned.place(position, p + x)
        const facing = turned.direction(given, n + x)
        const seen = see(at, facing, sharpness)
        let inside = 1
        if (once) {
          const [u, v] = pictureOf(params, seen[0]!, at, aspect)
          const near = params.depth > 0 ? 1 - smoothstep(0.9, 1, Math.abs(depthOf(params.way, at)) / params.depth) : 0
          const turnedTo = edge < full ? smoothstep(edge, full, towards(params.way, at, facing)) : 0
          inside = u >= 0 && u < 1 && v >= 0 && v < 1 ? near * turnedTo : 0
        }
        if (coverage) coverage.planes[0]![cover + x] = bounded(inside)
        sums.fill(0)
        for (let k = 0; k < seen.length && readers.length > 0; k++) {
          const one = seen[k]!
          const [u, v] = pictureOf(params, one, at, aspect)
          const px = wrapped(u) * width - 0.5
          const py = wrapped(v) * height - 0.5
          for (let plane = 0; plane < readers.length; plane++)
            sums[plane] = sums[plane]! + one.weight * readers[plane]!(px, py)
        }
        for (let plane = 0; plane < readers.length; plane++) result!.planes[plane]![to + x] = bounded(sums[plane]!)
      }
    }
  },
  presets: [
    {
      title: 'Decal',
      keywords: ['sticker', 'sign', 'number plate'],
      params: { way: 'planar', repeat: 'once', size: 0.3 },
    },
    { title: 'Around', keywords: ['label', 'barrel'], params: { way: 'cylindrical', size: 0.4 } },
  ],
  example: {
    onPart: true,
    nodes: { cells: { type: 'cells', params: { cells: [6, 6] } } },
    inputs: { source: 'cells.value' },
    params: { size: 0.4 },
  },
})

interface Placed extends ProjectorPlace {
  readonly way: string
  readonly size: number
}

/** Places and directions as the projector sees them: it looks along −Z, up is +Y. */
function projectorOf({ x, y, z, ...turns }: Placed) {
  const turned = towardsProjector(turns)
  return {
    place: ({ planes: [px, py, pz] }: Field, i: number): Three => turned(px![i]! - x, py![i]! - y, pz![i]! - z),
    direction: ({ planes: [nx, ny, nz] }: Field, i: number): Three => turned(nx![i]!, ny![i]!, nz![i]!),
  }
}

/** How many pictures go once around: at the distance of the place from the axis they would be about `size` wide at 1 m. */
const around = (size: number): number => Math.max(1, Math.round(1 / size))

/** Places of a picture, 0–1 within it, its middle at ½. */
function pictureOf({ way, size }: Placed, { u, v }: Seen, _: Three, aspect: number): [number, number] {
  if (way === 'cylindrical') return [u * around(size) + 0.5, v / (size * aspect) + 0.5]
  if (way === 'spherical') return [u * around(size) + 0.5, v * Math.max(1, Math.round(around(size) / 2))]
  return [u / size + 0.5, v / (size * aspect) + 0.5]
}

/** Metres from the plane, or the axis, of the projector's middle. */
const depthOf = (way: string, [x, , z]: Three): number => (way === 'cylindrical' ? Math.sqrt(x * x + z * z) : z)

/** The cosine between a surface and the way to the projector. */
function towards(way: string, [x, , z]: Three, [a, , c]: Three): number {
  if (way === 'planar' || way === 'three-way') return c
  const away = Math.sqrt(x * x + z * z)
  return away > 0 ? (x * a + z * c) / away : 0
}
