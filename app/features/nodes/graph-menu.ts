import type { MaterialDocument } from '#core/document/document'
import { portTitle } from '#core/graph/titles'
import { registry } from '#core/nodes/registry.generated'
import type { Actions } from '../../session/actions/actions'
import { nodeTitle } from '../../session/words/source-words'
import { readClipboard, writeClipboard } from '../../session/clipboard'
import type { ContextItem } from '../../ui/context-menu'
import { counted } from '../../ui/words'

/** What can be done with a card, or with those chosen with it. */
export function cardMenu(
  document: MaterialDocument,
  actions: Actions,
  chosen: readonly string[],
  id: string,
  rename: (id: string) => void,
): ContextItem[] {
  const node = document.nodes[id]
  if (!node) return []
  const ids = chosen.includes(id) ? chosen : [id]
  const these = ids.length > 1 ? counted(ids.length, 'node') : nodeTitle(document, id)
  const [port] = Object.keys(registry.get(node.type)?.outputs ?? {})
  return [
    ...(port ? [{ word: 'Show on the stage', run: () => actions.showLarge({ kind: 'port', node: id, port }) }] : []),
    ...(port
      ? [{ word: 'Name the result, to be read anywhere', keys: 'T', run: () => actions.nameResult({ node: id, port }) }]
      : []),
    { word: 'Rename', keys: 'F2', run: () => rename(id) },
    { word: node.off ? 'Switch on' : 'Switch off', keys: 'O', run: () => actions.toggleEnabled({ node: id }) },
    {
      word: `Help on ${registry.get(node.type)?.title ?? node.type}`,
      run: () => actions.setView({ help: { node: node.type } }),
    },
    ...Object.keys(registry.get(node.type)?.outputs ?? {})
      .slice(1)
      .map((other) => ({
        word: `Name its ${portTitle(registry.get(node.type), 'outputs', other).toLowerCase()}`,
        run: () => actions.nameResult({ node: id, port: other }),
      })),
    { word: `Frame around ${these}`, keys: 'G', run: () => actions.frameNodes(ids) },
    ...(ids.some((one) => document.nodes[one]?.frame !== undefined)
      ? [{ word: 'Out of the frame', run: () => actions.unframeNodes(ids) }]
      : []),
    'rule',
    { word: `Duplicate ${these}`, keys: 'Ctrl D', run: () => actions.duplicateNodes(ids) },
    { word: 'Copy', keys: 'Ctrl C', run: () => void writeClipboard(actions.copyChosen('nodes'), actions.notify) },
    { word: 'Cut', keys: 'Ctrl X', run: () => void writeClipboard(actions.copyChosen('nodes', true), actions.notify) },
    { word: `Delete ${these}`, keys: 'Delete', run: () => actions.deleteNodes(ids) },
  ]
}

/** What can be done on empty ground. */
export function groundMenu(
  actions: Actions,
  at: [number, number],
  { fit, whole }: { fit: () => void; whole: boolean },
): ContextItem[] {
  return [
    { word: 'New node here', keys: 'N', run: () => actions.openPalette({ kind: 'nodes', at }) },
    {
      word: 'Paste',
      keys: 'Ctrl V',
      run: () => void readClipboard(actions.pasteText, actions.notify),
    },
    'rule',
    { word: 'All of it in view', keys: 'F', run: fit },
    {
      word: whole ? 'Only what is behind the selection' : 'Whole graph',
      run: () => actions.setView({ wholeGraph: !whole }),
    },
  ]
}
