import type { MaterialDocument } from '#core/document/document'
import { openEditing } from '../document/document-store'
import { createActions } from '../actions/actions'
import { createView } from '../view'

/** A hash for each name. */
const hashOf = (name: string): string =>
  [...name]
    .reduce((sum, char) => sum + char.charCodeAt(0), 0)
    .toString(16)
    .padStart(64, 'a')

/** The screen's actions over a document that nobody else has; images are imported by name. */
export function screenOf(start: MaterialDocument) {
  let head = 0
  const control = openEditing(
    { head: 0, document: start, undo: [], redo: [] },
    {
      send: async (_, edits) => ({ status: 200, head: (head += edits.length) }),
      since: async () => ({ head, edits: [] }),
      storeUnsent: () => {},
      later: () => {},
      name: async () => {},
    },
  )
  const view = createView()
  const actions = createActions(control, view, {
    addModel: async (file) => (file.name.startsWith('broken') ? `${file.name} is no model.` : null),
    addAsset: async (file) =>
      file.name.endsWith('.png')
        ? {
            sha256: hashOf(file.name),
            name: file.name,
            width: 1,
            height: 1,
            channels: 3,
            bits: 8,
            float: false,
            here: true,
            transparent: file.name.includes('clear'),
          }
        : 'That is no image.',
  })
  return { actions, view, control, document: (): MaterialDocument => control.store.getState().document }
}
