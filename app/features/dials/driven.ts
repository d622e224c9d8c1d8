import { channelsOf } from '#core/document/channels'
import type { Drive, MaterialDocument } from '#core/document/document'
import { findLayer } from '#core/document/edits/layers'
import { UNIT_WORDS } from '#core/graph/dial-shape'
import { titleOf } from '#core/graph/titles'
import { registry } from '#core/nodes/registry.generated'
import { nodeTitle } from '../../session/words/source-words'

/** A setting that a dial drives: whose it is in words, and what it takes. */
export interface DrivenSetting {
  readonly words: string
  readonly min: number
  readonly max: number
  readonly unit?: string
}

/** Parts of a pair and of a number for each channel, by their places. */
const PAIR = [' across', ' down']
const RGB = [' red', ' green', ' blue']

export function drivenSetting(document: MaterialDocument, drive: Drive): DrivenSetting {
  if ('node' in drive) {
    if ('part' in drive) return { words: `effect of ${nodeTitle(document, drive.node)}`, min: 0, max: 1 }
    const [name = '', part] = drive.field.split('.')
    const node = document.nodes[drive.node]
    const parameter = node && registry.get(node.type)?.params[name]
    const title = nodeTitle(document, drive.node)
    if (!parameter) return { words: `${drive.field} of ${title}`, min: -1e6, max: 1e6 }
    const which = part === undefined ? '' : ((parameter.kind === 'pair' ? PAIR : RGB)[Number(part)] ?? '')
    return {
      words: `${titleOf(name, parameter)}${which} of ${title}`,
      min: parameter.min ?? -1e6,
      max: parameter.max ?? 1e6,
      unit: parameter.unit && UNIT_WORDS[parameter.unit],
    }
  }
  const layer = findLayer(document, drive.layer)?.name ?? drive.layer
  if ('entry' in drive) return { words: `${layer}, mask entry ${drive.entry + 1}, ${drive.field}`, min: 0, max: 1 }
  if (!('channel' in drive)) return { words: `${layer}, amount`, min: 0, max: 1 }
  const channel = channelsOf(document).find(({ id }) => id === drive.channel)
  const [min, max] = drive.field === 'value' ? (channel?.range ?? [0, 1]) : [0, 1]
  return { words: `${layer}, ${channel?.title.toLowerCase() ?? drive.channel}, ${drive.field}`, min, max }
}
