import { channelsOf } from '#core/document/channels'
import type { MaterialDocument, Source } from '#core/document/document'
import { addMaskEntry, findLayer, setCell } from '#core/document/edits/layers'
import type { PortType } from '#core/field/field'
import { portTypes } from '#core/graph/port-types'
import { registry } from '#core/nodes/registry.generated'
import type { Selection } from './view'

/** What a place takes in. */
export function typeAt(document: MaterialDocument, place: Selection): PortType {
  if (place.kind === 'mask' || place.kind === 'layer') return 'grey'
  return channelsOf(document).find((channel) => channel.id === place.channel)?.type ?? 'grey'
}

/** What a source carries; null where it leads nowhere. */
export function sourceType(document: MaterialDocument, source: Source): PortType | null {
  if ('value' in source) return typeof source.value === 'number' ? 'grey' : 'colour'
  if ('node' in source) return portTypes(document, registry).output(source.node)
  if ('backdrop' in source) return typeAt(document, { kind: 'channel', channel: source.backdrop })
  const tap = document.taps[source.tap]
  if (!tap) return null
  if ('node' in tap) return portTypes(document, registry).output(tap.node)
  return 'mask' in tap ? 'grey' : typeAt(document, { kind: 'channel', channel: tap.channel })
}

/** Makes something the source of a cell, or of a mask's entry; where none is named, of a new one. */
export function writeSource(draft: MaterialDocument, place: Selection, source: Source): void {
  if (place.kind === 'cell') setCell(draft, place.layer, place.channel, { source })
  else if (place.kind === 'mask') {
    const entry = place.entry === null ? undefined : findLayer(draft, place.layer)?.mask[place.entry]
    if (entry) entry.source = source
    else addMaskEntry(draft, place.layer, source)
  }
}
