import type { MaterialDocument } from '../document/document'
import type { MeshDataKind } from './mesh-data-kinds'
import { meshDataKinds } from './mesh-data-kinds'
import type { DefaultNode } from './ports'
import type { Registry } from './registry'

/** What the outputs of every material on a part lie on, where it was baked. */
const ALWAYS: readonly MeshDataKind[] = ['normal', 'occlusion']

/**
 * The kinds of mesh data that a material's nodes read, by themselves or over inputs that nothing is connected to; in the order of all
 * kinds. Without those that only lie under its outputs unless `always`.
 */
export function kindsRead(
  { nodes }: Pick<MaterialDocument, 'nodes'>,
  registry: Registry,
  { always = false }: { always?: boolean } = {},
): MeshDataKind[] {
  const found = new Set<string>(always ? ALWAYS : [])
  const read = (
    type: string,
    params: Readonly<Record<string, unknown>>,
    isConnected: (input: string) => boolean,
  ): void => {
    const node = registry.get(type)
    if (!node) return
    const complete = Object.fromEntries(
      Object.entries(node.params).map(([name, parameter]) => [name, params[name] ?? parameter.default]),
    )
    if (node.meshData) found.add(node.meshData(complete as never))
    for (const [name, { whenUnconnected }] of Object.entries(node.inputs))
      if (isDefaultNode(whenUnconnected) && !isConnected(name))
        read(whenUnconnected.type, whenUnconnected.params, () => false)
  }
  for (const { type, params = {}, inputs = {} } of Object.values(nodes)) read(type, params, (name) => name in inputs)
  return meshDataKinds.filter((kind) => found.has(kind))
}

const isDefaultNode = (value: unknown): value is DefaultNode => typeof value === 'object' && value !== null
