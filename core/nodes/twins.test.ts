import { localExecutor } from '../engine/local-executor'
import type { Field, PortType } from '../field/field'
import { createField, fieldPlanes, uniformField } from '../field/field'
import { imageKey, makePyramid } from '../field/pyramid'
import type { AnyNode } from '../graph/define-node'
import { checkParameters } from '../graph/graph'
import { withoutSimd } from '../kernels/simd'
import { bitsOf } from '../testing/examples'
import { pick, randomNumbers, randomValue } from '../testing/random-values'
import { EXAMPLE_PART } from '../graph/example-part'
import { exampleImage } from '../graph/example-document'
import { registry } from './registry.generated'

/**
 * Every node gives the same bits by the SIMD twins of its kernels as by their definitions: at random parameters, widths and
 * rows, from fields in shared memory and outside, uniform ones, and values all over the place.
 */
const { allocate, free } = localExecutor(registry)

/** Zeros of both signs, next to bounds, tiny and huge. */
const EDGES = [0, -0, 1, 0.5, 0.25, 1e-30, -1e-30, 1e18, -1e18, 1 + 2 ** -23, 0.5 + 2 ** -24, 3, -3]

function randomField(type: PortType, width: number, height: number, random: () => number, held: Field[]): Field {
  if (random() < 0.15) return uniformField(type, width, height, [random(), random() * 2 - 0.5, random()])
  const inShared = random() < 0.7
  const field = createField(type, width, height, { top: 0, rows: height }, inShared ? allocate : undefined)
  if (inShared) held.push(field)
  const wild = random() < 0.5 ? 0.1 : 0
  for (const plane of field.planes)
    for (let i = 0; i < plane.length; i++) plane[i] = random() < wild ? pick(random, EDGES) : random() * 1.6 - 0.3
  if (field.ids) for (let i = 0; i < field.ids.length; i++) field.ids[i] = Math.floor(random() * 9)
  return field
}

function compare(node: AnyNode, seed: number): void {
  const random = randomNumbers(seed)
  const held: Field[] = []
  const width = pick(random, [4, 12, 20, 33, 64, 96])
  const height = pick(random, [8, 16, 24])
  const params = checkParameters(
    node,
    Object.fromEntries(
      Object.entries(node.params)
        .filter(() => random() < 0.7)
        .map(([name, parameter]) => [name, randomValue(parameter, random)]),
    ),
  )
  const own = node.params.image ? { ...params, image: Object.keys(node.example.images ?? {})[0] ?? '' } : params
  const any = pick(random, node.genericTypes ?? ['grey'])
  const typeOf = (type: PortType | 'any'): PortType => (type === 'any' ? (any as PortType) : type)
  const inputs = Object.fromEntries(
    Object.entries(node.inputs).map(([name, port]) => [
      name,
      port.whenUnconnected === null && random() < 0.4
        ? null
        : randomField(typeOf(port.type), width, height, random, held),
    ]),
  )
  const from = Math.floor(random() * height)
  const setting = {
    width,
    height,
    tileTexels: width,
    documentSeed: Math.floor(random() * 1000),
    metres: [1, height / width] as const,
    heightMetres: 0.02,
    part: EXAMPLE_PART,
    images: new Map(
      (node.images?.(own as never, Object.keys(node.outputs), { part: EXAMPLE_PART }) ?? []).map((request) => [
        imageKey(request),
        makePyramid(exampleImage(node, request.image), request),
      ]),
    ),
  }
  const whole = node.sliceable === false
  const rows = {
    from: whole ? 0 : from,
    to: whole ? height : from + 1 + Math.floor(random() * (height - from)),
    check: () => {},
  }
  const shared = random() < 0.7
  const wanted = Object.keys(node.outputs).filter(() => random() < 0.8)
  const run = (): Uint32Array[][] => {
    const outputs = Object.fromEntries(
      wanted.map((name) => {
        const band = { top: 0, rows: height }
        const field = createField(typeOf(node.outputs[name]!.type), width, height, band, shared ? allocate : undefined)
        if (shared) held.push(field)
        for (const plane of fieldPlanes(field)) plane.fill(777)
        return [name, field]
      }),
    )
    const context = { ...setting, rows }
    const prepared = node.prepare?.(inputs as never, own as never, {
      ...context,
      rows: { ...rows, from: 0, to: height },
    })
    node.evaluate(inputs as never, own as never, outputs as never, { ...context, prepared })
    return Object.values(outputs).map((field) => bitsOf(field).map((bits) => bits.slice()))
  }
  const [ours, defined] = [run(), withoutSimd(run)]
  for (const field of held) fieldPlanes(field).forEach(free)
  ours.forEach((planes, o) =>
    planes.forEach((plane, p) => {
      const at = plane.findIndex((bits, i) => bits !== defined[o]![p]![i])
      if (at < 0) return
      const number = (bits: Uint32Array): number => new Float32Array(bits.buffer)[at]!
      throw new Error(
        `${node.type} #${seed}, output ${wanted[o]}, plane ${p}, texel ${at % width}, ${Math.floor(at / width)} of ${width}: ` +
          `${number(plane)}, by definition ${number(defined[o]![p]!)}; ${JSON.stringify(own)}`,
      )
    }),
  )
}

/** Fibres at the ends of their ranges take seconds by their definition. */
const runs = (type: string): number => (type === 'fibres' ? 12 : 40)

test.each([...registry.values()].map((node) => [node.type, node] as const))('%s', (type, node) => {
  for (let seed = 1; seed <= runs(type); seed++) compare(node, seed)
})
