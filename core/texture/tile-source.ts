import type { MaterialDocument } from '../document/document'
import { parseDocument } from '../document/document'
import type { PickedIds } from '../picked-ids'
import type { TileClaim, TileOfMesh } from '../mesh/tile-owners'
import { tileOwners } from '../mesh/tile-owners'
import type { ChannelSource, OpenedMaterial } from './channel-source'
import { jointSource } from './joint-source'

/** A material on a part of a model, by the part's number, or on some IDs of it. Its document lies on the part. */
export interface TileMaterial {
  readonly part: number
  readonly document: MaterialDocument
  readonly ids?: PickedIds
}

/** Opens a document with what there is for the material of that number. */
type Open = (document: MaterialDocument, material: number) => OpenedMaterial

/**
 * What materials come to in a tile of UVs, later ones over earlier: one on all of a part is itself, several share the texels.
 * Throws packing-invalid as jointSource does; evaluating throws mesh-data-missing where IDs have not been baked.
 */
export function tileSource(tile: TileOfMesh, materials: readonly TileMaterial[], open: Open): ChannelSource {
  const sources = materials.map(({ document }, k) => open(document, k))
  const [only] = materials
  if (materials.length === 1 && !only!.ids) return sources[0]!
  return jointSource(sources, {
    members: materials.map(({ part, ids }) => ({ part: tile.mesh.parts[part]!.name, ...(ids ? { ids } : {}) })),
    of: async (width, height) => {
      const claims: TileClaim[] = []
      for (const [k, { part, ids, document }] of materials.entries())
        claims.push({
          part,
          ...(ids
            ? {
                ids: {
                  wanted: new Set(ids.numbers),
                  numbers: await numbersOn(document, ids, width, (one) => open(one, k)),
                },
              }
            : {}),
        })
      return tileOwners(tile, claims, width, height)
    },
  })
}

const NODE = 'ids'

/** The numbers of a kind of ID at each texel of the part that a document lies on. */
async function numbersOn(
  { domain }: MaterialDocument,
  { kind }: PickedIds,
  width: number,
  open: (document: MaterialDocument) => OpenedMaterial,
): Promise<Uint32Array> {
  const asking = parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name: 'IDs',
    domain,
    nodes: { [NODE]: { type: 'id-mask', params: { kind } } },
  })
  const { fields } = await open(asking).evaluate({ outputs: [{ kind: 'port', node: NODE, port: 'id' }], width })
  const [field] = fields.values()
  const { ids, height, stride, width: across } = field!
  if (stride > 0) return ids!
  const all = new Uint32Array(across * height)
  for (let y = 0; y < height; y++) all.set(ids!.subarray(0, across), y * across)
  return all
}
