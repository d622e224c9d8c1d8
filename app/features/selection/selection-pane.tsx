import { findLayer, findPlain } from '#core/document/edits/layers'
import { channelsOf } from '#core/document/channels'
import { useDocument, useView } from '../../session/material'
import { CellSettings } from './cell-settings'
import { ChannelSettings, LayerSettings } from './layer-settings'
import { MaskSettings } from './mask-settings'
import { MaterialSettings } from './material-settings'
import { NodeSettings } from './node-settings'

/** What is chosen: its settings, its values, what it drives. */
export function SelectionPane() {
  const node = useView((view) => view.selectedNodes[0])
  const place = useView((view) => view.selection)
  const document = useDocument()
  if (node !== undefined && document.nodes[node]) return <NodeSettings key={node} id={node} />
  if (place?.kind === 'cell' && findPlain(document, place.layer))
    return <CellSettings layer={place.layer} channel={place.channel} />
  if (place?.kind === 'mask' && findLayer(document, place.layer))
    return <MaskSettings layer={place.layer} entry={place.entry} />
  // A group has no cells: over its columns it is the group that is chosen.
  if (place && 'layer' in place && findLayer(document, place.layer)) return <LayerSettings id={place.layer} />
  if (place?.kind === 'channel' && channelsOf(document).some(({ id }) => id === place.channel))
    return <ChannelSettings id={place.channel} />
  return <MaterialSettings />
}
