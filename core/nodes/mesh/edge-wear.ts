import type { Allocate, Field } from '../../field/field'
import { plainMemory, rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey, meshData } from '../../graph/ports'
import { blurFootprint } from '../../kernels/blur'
import { blurredField, blurredRow } from '../../kernels/blurred-field'
import { smoothstep } from '../../kernels/point'
import type { Rows } from '../../kernels/rows'
import type { PlaneOf, Simd } from '../../kernels/simd'
import { simd } from '../../kernels/simd'

/**
 * At the crest of an edge that turns by φ, the mean curvature under a Gaussian of σ is φ / (2σ√2π); times σ and this, a right angle
 * reads 1. Own derivation: mean curvature summed across an edge is φ/2.
 */
const RIGHT_ANGLE = (4 * 2.5066282746310002) / 3.141592653589793

const texels = (metres: number, per: number): number => metres * per

/** Edges that bulge, from the curvature of the part softened over a radius. */
export default defineNode({
  type: 'edge-wear',
  version: 1,
  family: 'mesh',
  title: 'Edge wear',
  summary: 'Edges that stand out, as hands and ropes wear them.',
  keywords: ['worn edges', 'convex', 'scratched paint', 'highlight', 'curvature', 'rub'],
  params: {
    radius: number({
      default: 0.01,
      min: 0,
      max: 100,
      softRange: [0, 0.1],
      unit: 'metre',
      help: 'How far from an edge it is worn.',
    }),
    level: number({
      default: 0.35,
      min: 0,
      max: 4,
      softRange: [0, 1],
      help: 'How sharp an edge must be: 1 only right angles, at their crest.',
    }),
    softness: number({ default: 0.3, min: 0, max: 4, softRange: [0, 1], help: 'How gradually wear begins.' }),
    breakup: number({
      default: 0.5,
      min: 0,
      max: 4,
      softRange: [0, 1],
      help: 'How strongly the breakup eats into the edge.',
    }),
    rim: number({ default: 3, min: 1, max: 20, softRange: [1, 6], help: 'How many times as wide the rim reaches.' }),
  },
  inputs: {
    curvature: grey({ help: 'Curvature in 1/m, positive where it bulges.', whenUnconnected: meshData('curvature') }),
    breakup: grey({ help: 'Noise that breaks the outline: 0.5 not at all.', whenUnconnected: null }),
    radiusBy: grey({ title: 'Radius by', help: 'Multiplies the radius, 0 to 1.', whenUnconnected: null }),
  },
  outputs: {
    edges: grey({ help: 'The worn edges, 0 to 1.' }),
    rim: grey({ help: 'A wider band around them without them: for a dark edge under a light one.' }),
    convexity: grey({ help: 'What the mask is cut from: 1 at the crest of a right angle.' }),
  },
  uses: ['metres'],
  tiles: false,
  mixedAtSeams: true,
  footprint: ({ radius, rim }, { width, height, metres }) =>
    blurFootprint({ kind: 'gaussian', sigma: texels(radius * rim, width / metres[0]) }, height),
  scratchPlanes: () => 2,
  evaluate: ({ curvature, breakup, radiusBy }, params, { edges, rim, convexity }, { width, rows, metres }) => {
    const { level, softness } = params
    const per = width / metres[0]
    const low = Math.max(0, level - softness / 2)
    const high = softness === 0 ? low : level + softness / 2
    const told = { ...params, low, high }
    const twin = simd()
    const wear = (allocate: Allocate): void => {
      const wide = rim
        ? blurredField(curvature, texels(params.radius * params.rim, per), radiusBy, rows, allocate)
        : null
      const tight = blurredField(curvature, texels(params.radius, per), radiusBy, rows, allocate)
      const made = { edges, rim, convexity }
      if (twin) wearByTwin(twin, { tight, wide, breakup, radiusBy }, told, made, rows)
      else wearRows({ tight, wide, breakup, radiusBy }, told, made, rows)
    }
    if (twin) twin.scratch(() => wear(twin.allocate))
    else wear(plainMemory)
  },
  presets: [
    { title: 'Rubbed bright', keywords: ['polished'], params: { radius: 0.006, level: 0.45, softness: 0.2 } },
    { title: 'Rounded by years', keywords: ['old', 'weathered'], params: { radius: 0.03, level: 0.3, softness: 0.6 } },
  ],
  example: { onPart: true, params: { radius: 0.02, level: 0.2 } },
})

interface WearInputs {
  /** Softened curvature. */
  readonly tight: Field
  readonly wide: Field | null
  readonly breakup: Field | null
  readonly radiusBy: Field | null
}

interface WearSetting {
  readonly radius: number
  readonly rim: number
  readonly breakup: number
  readonly level: number
  /** Sharpness at which wear begins and is whole; equal where it begins at once. */
  readonly low: number
  readonly high: number
}

type WearOutputs = Readonly<Record<'edges' | 'rim' | 'convexity', Field | undefined>>

function wearByTwin(
  twin: Simd,
  { tight, wide, breakup, radiusBy }: WearInputs,
  setting: WearSetting,
  { edges, rim, convexity }: WearOutputs,
  rows: Rows,
): void {
  const some = <T>(list: readonly (T | null)[]): T[] => list.filter((one) => one !== null)
  const planeOf = (field: Field | null | undefined): PlaneOf | null => (field ? [field, field.planes[0]!] : null)
  const given = [tight, wide, breakup, radiusBy].map(planeOf)
  const made = [edges, rim, convexity].map(planeOf)
  twin.runs(rows, tight.width, some(given), some(made), (count, inputs, outputs) => {
    // Byte offsets in the order of what there is.
    const [ins, outs] = [[...inputs], [...outputs]]
    const [sharp, soft, noise, drivers] = given.map((plane) => (plane ? ins.shift()! : 0)) as [
      number,
      number,
      number,
      number,
    ]
    const [toEdges, toRim, toConvexity] = made.map((plane) => (plane ? outs.shift()! : 0)) as [number, number, number]
    const { radius, low, high, level } = setting
    twin.assembly.edgeWear(
      ...([sharp, soft, noise, drivers, toEdges, toRim, toConvexity, count] as const),
      ...([radius, RIGHT_ANGLE, setting.rim, setting.breakup, low, high, level] as const),
    )
  })
}

function wearRows(
  { tight, wide, breakup, radiusBy }: WearInputs,
  { radius, rim: times, breakup: strength, level, low, high }: WearSetting,
  { edges, rim, convexity }: WearOutputs,
  rows: Rows,
): void {
  const mask = (value: number): number => (low === high ? (value >= level ? 1 : 0) : smoothstep(low, high, value))
  const sharp = tight.planes[0]!
  const soft = wide?.planes[0]
  const noise = breakup?.planes[0]
  const drivers = radiusBy?.planes[0]
  const [outEdges, outRim, outConvexity] = [edges?.planes[0], rim?.planes[0], convexity?.planes[0]]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const from = blurredRow(tight, y)
    const b = breakup ? rowStart(breakup, y) : 0
    const d = radiusBy ? rowStart(radiusBy, y) : 0
    const e = edges ? rowStart(edges, y) : 0
    const r = rim ? rowStart(rim, y) : 0
    const c = convexity ? rowStart(convexity, y) : 0
    for (let x = 0; x < tight.width; x++) {
      const share = drivers ? Math.min(1, Math.max(0, drivers[d + x]!)) : 1
      const scale = radius * share * RIGHT_ANGLE
      const bulge = Math.max(0, sharp[from + x]! * scale)
      const broken = noise ? (noise[b + x]! - 0.5) * strength : 0
      const worn = mask(bulge + broken * Math.min(1, bulge * 2))
      if (outConvexity) outConvexity[c + x] = bounded(bulge)
      if (outEdges) outEdges[e + x] = bounded(worn)
      if (outRim) {
        const around = Math.max(0, soft![from + x]! * scale * times)
        outRim[r + x] = bounded(Math.max(0, mask(around + broken * Math.min(1, around * 2)) - worn))
      }
    }
  }
}
