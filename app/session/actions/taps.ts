import { circleIn } from '#core/compose/circle'
import type { MaterialDocument, Source } from '#core/document/document'
import { dropTap } from '#core/document/edits/layers'
import type { Nameable } from '#core/document/edits/taps'
import { nameResult, renameTap, tapName, unnameResult } from '#core/document/edits/taps'
import { registry } from '#core/nodes/registry.generated'
import { outputInWords, placeInWords } from '../words/source-words'
import type { Selection } from '../view'
import type { ActionContext } from './context'

/** What a place of the sheet can give a name to; null where that is nothing. */
export const nameableAt = (place: Selection | null): Nameable | null =>
  place?.kind === 'cell'
    ? { layer: place.layer, channel: place.channel }
    : place?.kind === 'mask'
      ? { layer: place.layer, mask: true }
      : null

/** Results with names: made from any output, cell or mask in one press, read anywhere. */
export function tapActions(context: ActionContext) {
  const { document, edit, notify, set } = context
  const wordsFor = (what: Nameable): string => {
    if ('node' in what) return outputInWords(document(), what).replace(': ', ', ')
    const place: Selection =
      'mask' in what
        ? { kind: 'mask', layer: what.layer, entry: null }
        : { kind: 'cell', layer: what.layer, channel: what.channel }
    return placeInWords(document(), place).replace(' · ', ', ')
  }
  const actions = {
    nameResult(what: Nameable): void {
      let id: string | null = null
      const wanted = wordsFor(what)
      edit(`Name ${wanted}`, (draft) => (id = nameResult(draft, what, wanted)))
      if (id === null) return notify('There is nothing here that could be named.')
      const made = id as string
      notify(`“${tapName(document(), made)}” can be picked as a source anywhere.`, {
        word: 'Rename',
        run: () => set({ selection: null, selectedNodes: [], tab: 'selection', renamingTap: made }),
      })
    },
    /** Names what a node gives first. */
    nameFirstOutput(node: string): void {
      const [port] = Object.keys(registry.get(document().nodes[node]?.type ?? '')?.outputs ?? {})
      if (port !== undefined) actions.nameResult({ node, port })
    },
    renameTap(id: string, name: string): void {
      edit('Rename result', (draft) => renameTap(draft, id, name))
    },
    /** Takes a name away; what read it goes on reading the node, or is cleared where the result was a layer's. */
    unnameResult(id: string): void {
      edit(`Delete name ${tapName(document(), id)}`, (draft) => unnameResult(draft, id, dropTap))
    },
  }
  return actions
}

/** Why a change would have something feed itself, with the way round; null where it does not. */
export function circleAfter(
  document: MaterialDocument,
  change: (draft: MaterialDocument) => void,
  source: Source,
  at: Parameters<typeof circleIn>[2],
): string | null {
  // Only what goes through layers can lead back to them; wires among nodes are looked at as they are drawn.
  if (!('tap' in source)) return null
  const next = structuredClone(document)
  change(next)
  return circleIn(next, registry, at)
}
