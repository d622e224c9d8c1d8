import {
  clipCell,
  clipDials,
  clipLayers,
  clipMask,
  clipNodes,
  cellOf,
  isClip,
  pasteCell,
  pasteDials,
  pasteEntries,
  pasteLayers,
  pasteNodes,
  readClip,
} from '#core/document/edits/clip'
import { findLayer, findPlain } from '#core/document/edits/layers'
import { GristError } from '#core/errors'
import { registry } from '#core/nodes/registry.generated'
import { counted } from '../../ui/words'
import { nodeTitle, placeInWords } from '../words/source-words'
import type { Selection } from '../view'
import type { ActionContext } from './context'

/** Something that can be copied, and cut where it can be taken away. */
interface Copied {
  readonly text: string
  readonly words: string
  readonly takeAway: () => void
}

/** What is chosen as text, and text as parts of the material: within it, and from one to another. */
export function clipboardActions(
  context: ActionContext,
  {
    clear,
    deleteLayer,
    deleteNodes,
  }: {
    clear(place: Selection): void
    deleteLayer(layer: string): void
    deleteNodes(ids: readonly string[]): void
  },
) {
  const { get, set, document, notify, edit, select, selectNodes, layersWith } = context

  /** What would be copied; `prefer` says what counts where nodes and a place of the sheet are both chosen. */
  function chosen(prefer: 'sheet' | 'nodes'): Copied | null {
    const { selection, selectedNodes } = get()
    const nodes = selectedNodes.filter((id) => document().nodes[id])
    if (nodes.length > 0 && (prefer === 'nodes' || !selection))
      return {
        text: clipNodes(document(), nodes),
        words: nodes.length === 1 ? nodeTitle(document(), nodes[0]!) : counted(nodes.length, 'node'),
        takeAway: () => deleteNodes(nodes),
      }
    if (!selection || !('layer' in selection)) return null
    const words = placeInWords(document(), selection)
    if (selection.kind === 'layer') {
      const layers = layersWith(selection.layer)
      return {
        text: clipLayers(document(), layers),
        words: layers.length === 1 ? words : `${layers.length} layers`,
        takeAway: () => deleteLayer(selection.layer),
      }
    }
    const text =
      selection.kind === 'cell'
        ? clipCell(document(), selection)
        : clipMask(document(), selection.layer, selection.entry)
    if (text === null) return null
    if (selection.kind === 'cell') set({ clip: { layer: selection.layer, channel: selection.channel } })
    return { text, words, takeAway: () => clear(selection) }
  }

  /** Puts what was copied where it can go; says why where it cannot. */
  function put(text: string): string | null {
    const clip = readClip(text, registry)
    const { selection } = get()
    const layer = selection && 'layer' in selection ? selection.layer : null
    if (clip.kind === 'nodes') {
      let pasted: string[] = []
      edit('Paste nodes', (draft) => (pasted = pasteNodes(draft, clip, [24, 24])))
      selectNodes(pasted)
      return null
    }
    if (clip.kind === 'layers') {
      let pasted: string[] = []
      edit(`Paste ${counted(clip.layers.length, 'layer')}`, (draft) => (pasted = pasteLayers(draft, clip, layer)))
      const [first, ...also] = pasted
      if (first !== undefined) select({ kind: 'layer', layer: first })
      set({ alsoLayers: also })
      return null
    }
    if (clip.kind === 'dials') {
      edit(`Paste ${counted(clip.dials.length, 'dial')}`, (draft) => pasteDials(draft, clip))
      set({ tab: 'dials' })
      return null
    }
    if (layer === null) return 'Choose the layer, cell or mask that it goes into first.'
    const target = findLayer(document(), layer)!
    if (clip.kind === 'mask' || selection!.kind === 'mask') {
      let entry = 0
      edit(`Paste into the mask of ${target.name}`, (draft) => (entry = pasteEntries(draft, clip, layer)))
      select({ kind: 'mask', layer, entry })
      return null
    }
    if (!findPlain(document(), layer)) return 'A group has no cells; choose a layer in it.'
    const channel = selection!.kind === 'cell' ? selection!.channel : cellOf(clip)?.channel
    if (channel === undefined) return 'What was copied holds no cell.'
    edit(`Paste into ${target.name}`, (draft) => pasteCell(draft, clip, { layer, channel }))
    select({ kind: 'cell', layer, channel })
    return null
  }

  return {
    /** What is chosen as text; null where that is nothing. With `cut` it is taken away. Tells of it. */
    copyChosen(prefer: 'sheet' | 'nodes', cut = false): string | null {
      const copied = chosen(prefer)
      if (!copied) return null
      if (cut) copied.takeAway()
      notify(`${copied.words} ${cut ? 'cut' : 'copied'}. Ctrl V pastes it, here or in another material.`)
      return copied.text
    },
    /** Dials as text. */
    copyDials(ids: readonly string[]): string {
      notify(`${counted(ids.length, 'dial')} copied. Ctrl V pastes, here or in another material.`)
      return clipDials(document(), ids)
    },
    /** Pastes what was copied here or in another material; false where the text is something else. */
    pasteText(text: string): boolean {
      if (!isClip(text)) return false
      try {
        const problem = put(text)
        if (problem) notify(problem)
      } catch (error) {
        notify(error instanceof GristError ? error.message : 'What was copied could not be pasted.')
      }
      return true
    },
  }
}
