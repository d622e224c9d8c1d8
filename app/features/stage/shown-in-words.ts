import type { MaterialDocument } from '#core/document/document'
import { channelsOf } from '#core/compose/expand'
import { outputInWords } from '../../session/words/source-words'
/** What an output is, in words. */
export function shownInWords(document: MaterialDocument, output: string): string {
  const channel = channelsOf(document).find(({ id }) => id === output)
  if (channel) return channel.title.toLowerCase()
  const [kind = '', layer = '', part = ''] = output.split(':')
  if (kind === 'cell') return `what layer ${layer} puts into ${part}`
  if (kind === 'layer') return part === 'mask' ? `mask of layer ${layer}` : `${part} up to layer ${layer}`
  if (kind === 'file') return `file ${layer}`
  if (kind === 'slot') return `${'RGBA'[Number(part)]} of file ${layer}`
  if (kind === 'entry') return `mask entry ${Number(part) + 1} of layer ${layer}`
  return outputInWords(document, output)
}
