import type { PartFacts } from '../document/domain'
import type { Field } from '../field/field'
import { createField } from '../field/field'
import { checkParameters } from '../graph/graph'
import { allRows } from '../kernels/rows'
import { registry } from '../nodes/registry.generated'
import { fieldOf } from './fields'

/** Runs a node on given fields; outputs by port. */
export function runNode(
  type: string,
  inputs: Record<string, Field | null>,
  params: Record<string, unknown> = {},
  more: {
    width?: number
    height?: number
    metres?: readonly [number, number]
    heightMetres?: number
    part?: PartFacts
    images?: ReadonlyMap<string, unknown>
  } = {},
): Record<string, Field> {
  const node = registry.get(type)!
  const some = Object.values(inputs).find((field) => field !== null)
  const width = some?.width ?? more.width ?? 32
  const height = some?.height ?? more.height ?? width
  const kind = Object.entries(inputs).find(([name, field]) => field && node.inputs[name]?.type === 'any')?.[1]?.type
  const outputs = Object.fromEntries(
    Object.entries(node.outputs).map(([name, port]) => [
      name,
      createField(port.type === 'any' ? kind! : port.type, width, height),
    ]),
  )
  const all = Object.fromEntries(Object.keys(node.inputs).map((name) => [name, inputs[name] ?? null]))
  const given = checkParameters(node, params) as never
  const context = {
    width,
    height,
    tileTexels: width,
    rows: allRows(height),
    documentSeed: 1,
    metres: more.metres ?? [1, height / width],
    heightMetres: more.heightMetres ?? 0.05,
    part: more.part ?? null,
    images: (more.images ?? new Map()) as never,
  }
  const prepared = node.prepare?.(all as never, given, context)
  node.evaluate(all as never, given, outputs as never, { ...context, prepared })
  return outputs
}

/** A plane of an output. */
export const values = (field: Field | undefined, plane = 0): Float32Array => field!.planes[plane]!
/** A grey field of one value. */
export const constant = (v: number, n = 8): Field => fieldOf('grey', n, n, () => v)
