import { stepInWords } from '../words/step-words'
import type { ActionContext } from './context'

/** Steps back and forward through the document's edits; each says what it was. */
export const historyActions = ({ control, notify }: ActionContext) => ({
  undo: (): void => notify(stepInWords('undo', control.undo())),
  redo: (): void => notify(stepInWords('redo', control.redo())),
})
