import { redoneInWords, undoneInWords } from '../words/step-words'
import type { ActionContext } from './context'

/** Steps back and forward through the document's edits; each says what it was. */
export const historyActions = ({ control, notify }: ActionContext) => ({
  undo: (): void => notify(undoneInWords(control.undo())),
  redo: (): void => notify(redoneInWords(control.redo())),
})
