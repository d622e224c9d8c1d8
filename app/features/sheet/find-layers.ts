import type { Layer, MaterialDocument, PlainLayer } from '#core/document/document'
import { sourceInWords } from '../../session/words/source-words'

/** Whether a layer is meant by what somebody looks for: by its name, its note, or what its mask and cells read. */
export function isSought(document: MaterialDocument, layer: Layer, sought: string): boolean {
  const cells = layer.kind === 'group' ? [] : Object.values((layer as PlainLayer).cells)
  const sources = [...layer.mask, ...cells].map(({ source }) => sourceInWords(document, source))
  const text = [layer.name, layer.note ?? '', ...sources].join('\n').toLowerCase()
  return sought
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word))
}
