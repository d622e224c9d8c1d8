import type { Output } from '../document/address'
import { formatOutput, parseOutput } from '../document/address'
import type { Channel } from '../document/channels'
import { channelsOf } from '../document/channels'
import type { Layer, MaterialDocument } from '../document/document'
import { allLayers } from '../document/document'
import { findLayer, findPlain } from '../document/edits/layers'
import { hashText } from '../hash'
import type { BlendMode } from '../kernels/blend'
import { BLEND_MODES } from '../kernels/blend'

/*
 * What of a material is exported to an image editor and imported again: each picture carries a tag in its name by which it is found again,
 * "[cell:rust:colour #1a2b3c4d]": the output that it is of, and what that held; "with mask" where its opacity is the layer's mask.
 */

/** Layers that are exported together. */
export type LayersToExport =
  /** What a layer puts into each channel, and its mask. */
  | { readonly kind: 'layer'; readonly layer: string }
  /** What each layer puts into a channel, its mask as opacity. */
  | { readonly kind: 'channel'; readonly channel: string }

/** What is exported to a file: layers, or one picture. */
export type ExportSubject = { readonly layers: LayersToExport } | { readonly picture: Output; readonly title: string }

/** One of their pictures. */
export interface LayerPicture {
  readonly output: Output
  readonly title: string
  /** What is its opacity; null: it covers all. */
  readonly mask: Output | null
  readonly blend: BlendMode
  readonly opacity: number
  readonly visible: boolean
}

/** Their pictures, the lowest first. */
export function picturesOf(document: MaterialDocument, what: LayersToExport): LayerPicture[] {
  const channels = channelsOf(document)
  const plain = { mask: null, blend: 'normal', opacity: 1, visible: true } as const
  if (what.kind === 'layer') {
    const layer = findLayer(document, what.layer)
    if (!layer) return []
    const cells = layer.kind === 'group' ? [] : channels.filter(({ id }) => Object.hasOwn(layer.cells, id))
    return [
      ...cells.map(({ id, title }) => ({
        ...plain,
        output: { kind: 'cell', layer: layer.id, channel: id } as const,
        title: `${layer.name}, ${title}`,
      })),
      ...(layer.mask.length > 0
        ? [{ ...plain, output: { kind: 'mask', layer: layer.id } as const, title: `${layer.name}, mask` }]
        : []),
    ]
  }
  const { channel } = what
  return [...layersWithParents(document.layers)].flatMap(({ layer, off, amount }) => {
    const cell = layer.kind === 'layer' ? layer.cells[channel] : undefined
    if (!cell) return []
    return [
      {
        output: { kind: 'cell', layer: layer.id, channel } as const,
        title: layer.name,
        mask: layer.mask.length > 0 ? ({ kind: 'mask', layer: layer.id } as const) : null,
        blend: BLEND_MODES.find((mode) => mode === cell.blend) ?? 'normal',
        opacity: Math.round(cell.amount * amount * 1e4) / 1e4,
        visible: !off && !cell.off,
      },
    ]
  })
}

/** Layers with what the groups around them do to them: whether they are off, and how much of them shows. */
function* layersWithParents(
  layers: readonly Layer[],
  off = false,
  amount = 1,
): Generator<{ layer: Layer; off: boolean; amount: number }> {
  for (const layer of layers) {
    const own = { off: off || layer.off === true, amount: amount * layer.amount }
    yield { layer, ...own }
    if (layer.kind === 'group') yield* layersWithParents(layer.layers, own.off, own.amount)
  }
}

/** What the exported layers of a channel do not show, in words. */
export function exportNotes(document: MaterialDocument, what: LayersToExport): string[] {
  if (what.kind !== 'channel') return []
  const into = (layer: Layer): boolean =>
    layer.kind === 'group' ? layer.layers.some(into) : Object.hasOwn(layer.cells, what.channel)
  return [...allLayers(document.layers)].flatMap((layer) => {
    if (layer.kind === 'group')
      return layer.mask.length > 0 && into(layer) ? [`${layer.name}: the mask of the group is not exported.`] : []
    if (layer.kind === 'correction' && into(layer))
      return [`${layer.name}: corrections are not exported; the layers below are without it.`]
    return []
  })
}

/** The channel that an output goes to; null for a mask. */
export const channelOf = (document: MaterialDocument, output: Output): Channel | null =>
  'channel' in output ? (channelsOf(document).find(({ id }) => id === output.channel) ?? null) : null

const KEY_LENGTH = 8

/** What a picture is of, and the key of what that held. */
export interface PictureTag {
  readonly output: Output
  readonly withMask: boolean
  readonly key: string
}

/** A picture's name outside: words, and its tag. */
export const taggedName = (title: string, { output, withMask, key }: PictureTag): string =>
  `${title} [${formatOutput(output)}${withMask ? ' with mask' : ''} #${key}]`

/** The same for a file's name, which keeps no colons. */
export const taggedFileName = (title: string, tag: PictureTag, ending: string): string =>
  `${taggedName(title, tag)
    .replaceAll(':', '~')
    .replace(/[^\w~#[\]., -]/g, '_')}${ending}`

/** The tag of a name; null where it has none, or that of nothing that pictures are of. */
export function tagOf(name: string): PictureTag | null {
  const found = new RegExp(`\\[([\\w~:-]{1,160})( with mask)? #([0-9a-f]{${KEY_LENGTH}})\\]`).exec(name)
  if (!found) return null
  try {
    const output = parseOutput(found[1]!.replaceAll('~', ':'))
    const known = output.kind === 'cell' || output.kind === 'mask' || output.kind === 'channel'
    return known ? { output, withMask: found[2] !== undefined, key: found[3]! } : null
  } catch {
    return null
  }
}

/** Whether a file may be one that was exported, by its name. */
export const isFromEditor = ({ name }: { readonly name: string }): boolean =>
  /\.ora$/i.test(name) || (/\.png$/i.test(name) && tagOf(name) !== null)

/** A short key of what an output holds, from that of MaterialSession.keysOf; a chance of 1 in 4 billion that two are alike. */
export const keyFor = (content: string): string => hashText(content).slice(0, KEY_LENGTH)

/** Whether what an output is of is there. */
export function isThere(document: MaterialDocument, output: Output): boolean {
  if (output.kind === 'channel') return channelOf(document, output) !== null
  if (output.kind === 'cell') return Object.hasOwn(findPlain(document, output.layer)?.cells ?? {}, output.channel)
  return output.kind === 'mask' && findLayer(document, output.layer) !== undefined
}
