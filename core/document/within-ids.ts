import type { MaterialDocument } from './document'
import type { PickedIds } from '../picked-ids'

/** A document where it lies on IDs of a part only, or on all but those: elsewhere it is cut out. */
export function withinIds(document: MaterialDocument, { kind, numbers }: PickedIds, isInside = true): MaterialDocument {
  const [node, layer] = [freeId('within', document.nodes), freeId('within', ids(document))]
  return {
    ...document,
    surface: document.surface.opacity === 'opaque' ? { ...document.surface, opacity: 'cut-out' } : document.surface,
    nodes: { ...document.nodes, [node]: { type: 'id-mask', params: { kind, ids: numbers, invert: isInside } } },
    layers: [
      ...document.layers,
      {
        ...{ kind: 'correction', id: layer, name: 'Elsewhere', amount: 1 },
        cells: { opacity: { source: { value: 0 }, blend: 'normal', amount: 1, encoding: 'srgb' } },
        mask: [{ source: { node: `${node}.mask` }, mode: 'multiply', amount: 1, invert: false }],
      },
    ],
  }
}

/** Names that layers have, as members. */
const ids = ({ layers }: Pick<MaterialDocument, 'layers'>): Record<string, true> =>
  Object.fromEntries(
    layers.flatMap((layer) => [
      [layer.id, true],
      ...(layer.kind === 'group' ? Object.entries(ids({ layers: layer.layers })) : []),
    ]),
  ) as Record<string, true>

function freeId(name: string, taken: Readonly<Record<string, unknown>>): string {
  let free = name
  for (let n = 2; Object.hasOwn(taken, free); n++) free = `${name}-${n}`
  return free
}
