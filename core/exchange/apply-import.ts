import type { Output } from '../document/address'
import type { DocumentNode, MaterialDocument, Source } from '../document/document'
import { findLayer, findPlain, addLayer, setCell } from '../document/edits/layers'
import { freeNodeId } from '../document/edits/names'
import { registry } from '../nodes/registry.generated'
import { channelOf } from './exported-pictures'

/** Ids of nodes that hold imported pictures begin so. */
const ID = 'painted'

/**
 * Puts an imported picture where the output of its tag is: as an image that the cell or the mask reads from then on. One that was imported
 * there before is replaced, so that what reads it stays as it is. Of a mask the entries are switched off and stay under it; a whole channel
 * becomes a layer on top. `part` opacity: the picture is the opacity of an imported layer, which is the layer's mask.
 */
export function applyImport(
  draft: MaterialDocument,
  output: Output,
  image: string,
  title: string,
  part: 'values' | 'opacity' = 'values',
): void {
  if (output.kind === 'channel') {
    const layer = addLayer(draft, 'layer', null, `${title}, painted`)
    setCell(draft, layer, output.channel, { source: imageSource(draft, undefined, output, image, title, part) })
  } else if (output.kind === 'cell' && part === 'values') {
    const cell = findPlain(draft, output.layer)?.cells[output.channel]
    if (cell)
      setCell(draft, output.layer, output.channel, {
        source: imageSource(draft, cell.source, output, image, title, part),
      })
  } else if ('layer' in output) {
    const layer = findLayer(draft, output.layer)
    if (!layer) return
    // It is the whole mask: nothing else is left on, and nothing changes it.
    const before = layer.mask.findLast((entry) => heldBy(draft, entry.source))
    const source = imageSource(draft, before?.source, output, image, title, part)
    for (const entry of layer.mask) if (entry !== before) entry.off = true
    if (before) {
      Object.assign(before, { source, ...WHOLE })
      delete before.off
    } else layer.mask.push({ source, ...WHOLE })
  }
}

/** How a mask entry is that is the whole mask. */
const WHOLE = { mode: 'multiply', amount: 1, invert: false } as const

/** The node of an earlier picture that a source reads. */
function heldBy(draft: MaterialDocument, source: Source | undefined): string | null {
  const node = source && 'node' in source ? source.node.split('.')[0]! : null
  return node?.startsWith(ID) && draft.nodes[node]?.type === 'image' ? node : null
}

/** A source that reads an image, by the node that held the one before, or by a new one. */
function imageSource(
  draft: MaterialDocument,
  before: Source | undefined,
  output: Output,
  image: string,
  title: string,
  part: 'values' | 'opacity',
): Source {
  const type = output.kind === 'mask' || part === 'opacity' ? 'grey' : (channelOf(draft, output)?.type ?? 'grey')
  const held = heldBy(draft, before)
  const id = held ?? freeNodeId(draft, `${ID}-1`)
  const node: DocumentNode = {
    ...draft.nodes[id],
    type: 'image',
    version: registry.get('image')!.version,
    name: `${title}, painted`.slice(0, 200),
    params: {
      ...draft.nodes[id]?.params,
      image,
      // Its values as the file has them, whatever its opacity says.
      ...{ encoding: type === 'colour' ? 'srgb' : 'raw', alpha: 'premultiplied', ground: '#000000' },
    },
  }
  draft.nodes[id] = node
  return { node: type === 'grey' ? `${id}.stored` : `${id}.colour` }
}
