import type { Channel } from '../document/channel'
import { optionalChannel } from '../document/channels'
import type { MaterialDocument } from '../document/document'
import type { MeshDataKind } from './mesh-data-kinds'
import { meshDataKinds } from './mesh-data-kinds'
import { isDefaultNode } from './ports'
import type { Registry } from './registry'

/** What the outputs of every material on a part lie on, where it was baked. */
const ALWAYS: readonly MeshDataKind[] = ['normal', 'occlusion']

/**
 * The kinds of mesh data that a material's nodes read, by themselves or over inputs that nothing is connected to; in the order of all
 * kinds. With those that lie under its channels where `under`, and those that what is made of channels reads, of these for `delivery`.
 */
export function kindsRead(
  { nodes, channels }: Pick<MaterialDocument, 'nodes' | 'channels'>,
  registry: Registry,
  { under = false, delivery = [] }: { under?: boolean; delivery?: readonly Channel[] } = {},
): MeshDataKind[] {
  const found = new Set<string>(under ? ALWAYS : [])
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
  const made = under ? Object.keys(channels) : []
  for (const { derived } of delivery) {
    if (!derived) continue
    read(derived.node, {}, () => false)
    made.push(...(derived.bakes ?? []))
  }
  for (const { onPart } of made.flatMap((id) => optionalChannel(id) ?? [])) if (onPart) found.add(onPart.data)
  return meshDataKinds.filter((kind) => found.has(kind))
}
