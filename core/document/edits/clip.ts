import { z } from 'zod'
import { GristError } from '../../errors'
import type { Cell, Layer, MaskEntry, MaterialDocument } from '../document'
import { parseDocument } from '../document'
import type { NodeTypes } from '../node-types'
import { DOCUMENT_VERSION } from '../upgrade'
import type { Fragment } from './fragment'
import { fragmentOf, insertFragment, nodesFragment, placeLayers } from './fragment'
import { addMaskEntry, findLayer, findPlain, outermost, setCell } from './layers'
import { carried } from './copies'
import type { CellPlace } from './nodes'

/** What is copied as text, to be pasted here or in another material. */
export const CLIP_FORMAT = 'amber-grist/clip'

const KINDS = ['nodes', 'layers', 'cell', 'mask', 'dials'] as const

/** A part of a document that was copied: a cell, and a mask, are in the only layer of their fragment. */
export interface Clip extends Fragment {
  readonly kind: (typeof KINDS)[number]
}

const clip = z.object({
  format: z.literal(CLIP_FORMAT),
  version: z.int(),
  kind: z.enum(KINDS),
  nodes: z.record(z.string(), z.unknown()).default({}),
  layers: z.array(z.unknown()).default([]),
  taps: z.record(z.string(), z.unknown()).default({}),
  dials: z.array(z.unknown()).default([]),
  channels: z.record(z.string(), z.unknown()).default({}),
})

const written = (kind: Clip['kind'], fragment: Fragment): string =>
  JSON.stringify({ format: CLIP_FORMAT, version: DOCUMENT_VERSION, kind, ...fragment }, null, 1)

const holder = (parts: Partial<Layer>): Layer => ({
  kind: 'layer',
  id: 'clip',
  name: 'clip',
  amount: 1,
  mask: [],
  cells: {},
  ...(parts as object),
})

/** Nodes, without what feeds them from outside. */
export const clipNodes = (document: MaterialDocument, ids: readonly string[]): string =>
  written('nodes', nodesFragment(document, ids))

/** Layers and groups with all that they rest on. */
export const clipLayers = (document: MaterialDocument, ids: readonly string[]): string =>
  written(
    'layers',
    fragmentOf(
      document,
      outermost(document, ids).map((id) => findLayer(document, id)!),
    ),
  )

/** A cell with the nodes behind it; null where it is empty. */
export function clipCell(document: MaterialDocument, { layer, channel }: CellPlace): string | null {
  const cell = findPlain(document, layer)?.cells[channel]
  return cell ? written('cell', fragmentOf(document, [holder({ cells: { [channel]: cell } } as never)])) : null
}

/** A mask, or one entry of it, with the nodes behind it; null where there is none. */
export function clipMask(document: MaterialDocument, layer: string, entry: number | null): string | null {
  const mask = findLayer(document, layer)?.mask ?? []
  const entries = entry === null ? mask : mask.slice(entry, entry + 1).map(({ joined: _, ...alone }) => alone)
  return entries.length > 0 ? written('mask', fragmentOf(document, [holder({ mask: entries })])) : null
}

export const clipDials = (document: MaterialDocument, ids: readonly string[]): string =>
  written('dials', {
    nodes: {},
    layers: [],
    taps: {},
    channels: {},
    dials: document.dials.filter(({ id }) => ids.includes(id)),
  })

/** Whether a text says that it is of this kind. */
export const isClip = (text: string): boolean => text.includes(`"${CLIP_FORMAT}"`)

/** Reads a text that was copied. Throws document-invalid, document-too-new, node-unknown. */
export function readClip(text: string, registry: NodeTypes): Clip {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    throw new GristError('document-invalid', 'What was copied is no part of a material: it is not JSON.')
  }
  const read = clip.safeParse(json)
  if (!read.success)
    throw new GristError(
      'document-invalid',
      `What was copied is no part of a material: expected "format": "${CLIP_FORMAT}" and what goes with it.`,
    )
  const { version, kind, nodes, layers, taps, dials, channels } = read.data
  const document = parseDocument({
    format: 'amber-grist/material',
    version,
    name: 'clipboard',
    domain: { kind: 'tile', metres: [1, 1] },
    nodes,
    layers,
    taps,
    dials,
    channels,
  })
  for (const { type } of Object.values(document.nodes))
    if (!registry.has(type)) throw new GristError('node-unknown', `There is no node type "${type}" here.`)
  return {
    kind,
    nodes: document.nodes,
    layers: document.layers,
    taps: document.taps,
    dials: document.dials,
    channels: document.channels,
  }
}

/** Adds nodes. Wires that lead out of them are left loose, but for those from what lies below. Gives the new ids. */
export const pasteNodes = (draft: MaterialDocument, from: Clip, shift: readonly [number, number]): string[] => [
  ...insertFragment(draft, from, { shift, keepOutside: false }).nodes.values(),
]

/** Adds layers just above one, or on top of all. Gives their ids. */
export function pasteLayers(draft: MaterialDocument, from: Clip, above: string | null): string[] {
  const { layers } = insertFragment(draft, from)
  placeLayers(draft, layers, above)
  return layers.map(({ id }) => id)
}

/** The cell of a clip, as it is read: its channel, and the cell. */
export function cellOf({ layers }: Clip): { channel: string; cell: Cell } | null {
  const [layer] = layers
  const [entry] =
    layer && layer.kind !== 'group' ? Object.entries((layer as { cells: Record<string, Cell> }).cells) : []
  return entry ? { channel: entry[0], cell: entry[1] } : null
}

/** Puts a cell into a place; what was there goes. */
export function pasteCell(draft: MaterialDocument, from: Clip, to: CellPlace): void {
  const { layers } = insertFragment(draft, from)
  const found = cellOf({ ...from, layers })
  if (!found) return
  const { channel, cell } = found
  setCell(draft, to.layer, to.channel, { ...carried(cell, { layer: '', channel }, to), source: cell.source })
}

/** Adds entries on top of a layer's mask; a cell becomes one. Gives the number of the last. */
export function pasteEntries(draft: MaterialDocument, from: Clip, layer: string): number {
  const { layers } = insertFragment(draft, from)
  const entries: MaskEntry[] = layers[0]?.mask ?? []
  const cell = cellOf({ ...from, layers })
  const target = findLayer(draft, layer)
  if (from.kind === 'cell' && cell) return addMaskEntry(draft, layer, cell.cell.source)
  target?.mask.push(...entries)
  return (target?.mask.length ?? 0) - 1
}

/** Adds dials; each goes on turning what it turns where that is here and no other dial does. */
export function pasteDials(draft: MaterialDocument, { dials }: Clip): void {
  for (const dial of dials) {
    const id = dial.id
    let own = id
    for (let n = 2; draft.dials.some((one) => one.id === own); n++) own = `${id}-${n}`
    const isDriven = (key: string): boolean =>
      draft.dials.some(({ drives }) => drives.some((drive) => targetOf(drive) === key))
    const drives = dial.drives.filter((drive) => {
      const here =
        'node' in drive ? Object.hasOwn(draft.nodes, drive.node) : findLayer(draft, drive.layer) !== undefined
      return here && !isDriven(targetOf(drive))
    })
    draft.dials.push({ ...dial, id: own, drives })
  }
}

const targetOf = (drive: object): string => JSON.stringify({ ...drive, scale: 0, offset: 0 })
