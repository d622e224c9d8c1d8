import { GristError } from '../errors'
import type { PickedIds } from '../picked-ids'
import { channelsOf } from './channels'
import type { Channel } from './channel'
import type { Cell, Group, Layer, MaterialDocument, PlainLayer, Source } from './document'
import { allLayers, parseDocument } from './document'
import type { Fragment } from './edits/fragment'
import { fragmentOf, insertFragment } from './edits/fragment'
import { freeLayerId, freeName, freeNodeId, idFrom } from './edits/names'
import { jointDocument, jointScales } from './joint-document'

/** A material on all of a part, or on some IDs of it. */
export interface LaidOn {
  readonly document: MaterialDocument
  readonly ids?: PickedIds
}

/** How far down the nodes of a material lie under those of the one before, in units of the canvas. */
const APART = 400

/**
 * The materials of a part as one sheet, so that more can be laid on top of all: a group of layers for each, the later ones masked by
 * their IDs; the first lies on all. Each shows what it shows by itself, its heights brought to the largest depth and its emission to the
 * largest strength; the seed, the reach of occlusion and the kind of surface are the first one's. Dials come along in sections named by
 * their materials. Throws document-invalid where it grows beyond what a document may hold, or the normals of some hold their heights
 * and those of others do not; packing-invalid where two have a channel of one name that hold different things.
 */
export function layeredDocument(materials: readonly LaidOn[], name: string): MaterialDocument {
  const joint = jointDocument(materials.map(({ document }) => document))
  const other = materials.find(
    ({ document }) => Boolean(document.normalsHoldHeight) !== Boolean(joint.normalsHoldHeight),
  )
  if (other)
    throw new GristError(
      'document-invalid',
      `Heights bend the normals of one of “${joint.name}” and “${other.document.name}” and not of the other: as one they would all do.`,
    )
  const draft: MaterialDocument = {
    ...joint,
    name,
    domain: { kind: 'part' },
    ...{ nodes: {}, layers: [], frames: {}, taps: {}, dials: [], presets: {} },
  }
  const written = new Set<string>()
  materials.forEach(({ document, ids }, k) => {
    const group = emptyGroup(freeLayerId(draft, idFrom(document.name, 'material')), freeTitle(draft, document.name))
    draft.layers.push(group)
    if (ids && k > 0) group.mask.push(idsEntry(draft, ids))
    const { layers } = insertFragment(draft, sectioned(fragmentOf(document, document.layers), group), {
      shift: [0, lowest(draft)],
    })
    // What lies below must not shine through where this one writes nothing.
    if (written.size > 0) group.layers.push(ground(draft, [...written]))
    group.layers.push(...layers)
    scaled(draft, group, document, joint)
    for (const channel of writtenBy(document)) written.add(channel)
  })
  return parseDocument(JSON.parse(JSON.stringify(draft)))
}

const emptyGroup = (id: string, name: string): Group => ({
  ...{ kind: 'group', id, name, amount: 1 },
  ...{ mask: [], closed: false, layers: [] },
})

const plainLayer = (
  kind: PlainLayer['kind'],
  id: string,
  name: string,
  cells: Readonly<Record<string, Cell>>,
): PlainLayer => ({ kind, id, name, amount: 1, mask: [], cells: { ...cells } })

const cellOf = (source: Source, blend: Cell['blend'] = 'normal', encoding: Cell['encoding'] = 'srgb'): Cell => ({
  ...{ source, blend, encoding },
  amount: 1,
})

const freeTitle = (draft: MaterialDocument, name: string): string =>
  freeName(
    name,
    [...allLayers(draft.layers)].map((one) => one.name),
  )

function writtenBy({ layers }: MaterialDocument): Set<string> {
  const found = new Set<string>()
  for (const layer of allLayers(layers))
    for (const channel of layer.kind === 'group' ? [] : Object.keys(layer.cells)) found.add(channel)
  return found
}

function idsEntry(draft: MaterialDocument, { kind, numbers }: PickedIds): Group['mask'][number] {
  const node = freeNodeId(draft, 'ids')
  draft.nodes[node] = { type: 'id-mask', params: { kind, ids: [...numbers] }, ...room(draft) }
  return { source: { node: `${node}.mask` }, mode: 'multiply', amount: 1, invert: false }
}

/** Where there is room under all nodes that have a place; the canvas finds places where none has one. */
const lowest = ({ nodes }: MaterialDocument): number =>
  Object.values(nodes).reduce((most, { at }) => Math.max(most, at ? at[1] + APART : 0), 0)
const room = (draft: MaterialDocument): { at?: [number, number] } => {
  const y = lowest(draft)
  return y === 0 ? {} : { at: [0, y] }
}

/** Dials of a material in a section of its group's name, under ids that those of another with the same name do not have. */
const sectioned = (fragment: Fragment, { id, name }: Group): Fragment => ({
  ...fragment,
  dials: fragment.dials.map((dial) => ({ ...dial, id: `${id}-${dial.id}`.slice(0, 60), section: name })),
})

/** A layer with the ground of channels: what there is where nothing lies. */
function ground(draft: MaterialDocument, channels: readonly string[]): Layer {
  const known = new Map(channelsOf(draft).map((channel) => [channel.id, channel]))
  const cells = channels.flatMap((id): [string, Cell][] => {
    const channel = known.get(id)
    return channel ? [[id, groundCell(draft, channel)]] : []
  })
  return plainLayer('layer', freeLayerId(draft, 'ground'), freeTitle(draft, 'Ground'), Object.fromEntries(cells))
}

function groundCell(draft: MaterialDocument, { id, type, backdrop }: Channel): Cell {
  if (type !== 'normal') return cellOf({ value: draft.channels[id]?.backdrop ?? backdrop[0]! })
  const flat =
    Object.keys(draft.nodes).find((node) => draft.nodes[node]!.type === 'flat-normal') ?? freeNodeId(draft, 'flat')
  draft.nodes[flat] ??= { type: 'flat-normal', ...room(draft) }
  return cellOf({ node: `${flat}.normal` }, 'replace')
}

/** Brings heights and emission of a group to the depth and strength of all. */
function scaled(draft: MaterialDocument, group: Group, own: MaterialDocument, joint: MaterialDocument): void {
  const { height, emission } = jointScales(own, joint)
  const cells: Record<string, Cell> = {}
  if (height !== 1 && writtenBy(own).has('height')) {
    const node = freeNodeId(draft, 'depth')
    const params = { toLow: 0.5 - height / 2, toHigh: 0.5 + height / 2 }
    const inputs = { source: { backdrop: 'height' } }
    draft.nodes[node] = { type: 'remap', name: 'Depth of all', params, inputs, ...room(draft) }
    cells.height = cellOf({ node: `${node}.result` })
  }
  if (emission !== 1 && writtenBy(own).has('emission')) {
    const node = freeNodeId(draft, 'strength')
    const inputs = { source: { backdrop: 'emission' } }
    draft.nodes[node] = {
      type: 'remap',
      name: 'Strength of all',
      params: { toHigh: emission },
      inputs,
      ...room(draft),
    }
    cells.emission = cellOf({ node: `${node}.result` }, 'normal', 'linear')
  }
  if (Object.keys(cells).length === 0) return
  group.layers.push(plainLayer('correction', freeLayerId(draft, 'scale'), freeTitle(draft, 'Scale'), cells))
}
