import { deliverableChannels } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { findLayer } from '#core/document/edits/layers'
import type { StageOutput } from '#core/texture/stage-output'
import { outputInWords } from '../../session/words/source-words'

/** What an output is, in words. */
export function shownInWords(document: MaterialDocument, output: StageOutput): string {
  const channel = (id: string): string =>
    (deliverableChannels(document).find((one) => one.id === id)?.title ?? id).toLowerCase()
  const layer = (id: string): string => findLayer(document, id)?.name ?? id
  switch (output.kind) {
    case 'channel':
      return channel(output.channel)
    case 'port':
      return outputInWords(document, output)
    case 'tap':
      return `tap ${output.tap}`
    case 'layer':
      return `${channel(output.channel)} up to layer ${layer(output.layer)}`
    case 'mask':
      return `mask of layer ${layer(output.layer)}`
    case 'cell':
      return `what layer ${layer(output.layer)} puts into ${channel(output.channel)}`
    case 'entry':
      return `mask entry ${output.entry + 1} of layer ${layer(output.layer)}`
    case 'file':
      return `file ${output.map}`
    case 'slot':
      return `${'RGBA'[output.slot]} of file ${output.map}`
  }
}
