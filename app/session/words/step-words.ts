/** What an undo or a redo says it did: "Undone: move Grime". Nothing where there was nothing. */
export const undoneInWords = (label: string | null): string => stepInWords('Undone', 'Nothing to undo.', label)
export const redoneInWords = (label: string | null): string => stepInWords('Redone', 'Nothing to redo.', label)

const stepInWords = (word: string, nothing: string, label: string | null): string =>
  label === null ? nothing : `${word}: ${label.charAt(0).toLowerCase()}${label.slice(1)}`
