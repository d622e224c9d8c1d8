import type { Step } from '../document/document-store'

const WORDS = {
  undo: { done: 'Undone', not: 'Not undone', nothing: 'Nothing to undo.' },
  redo: { done: 'Redone', not: 'Not redone', nothing: 'Nothing to redo.' },
} as const

/** A label within a sentence. */
const within = (label: string): string => `${label.charAt(0).toLowerCase()}${label.slice(1)}`

/** What undid a step of the history, or did it again: "Undone: move Grime". */
export const turnInWords = (kind: 'undo' | 'redo', label: string): string => `${WORDS[kind].done}: ${within(label)}`

/** What an undo or a redo says it did, and whose edit that was; null is nothing. */
export function stepInWords(kind: 'undo' | 'redo', step: Step | null): string {
  const words = WORDS[kind]
  if (!step) return words.nothing
  if (!step.done) return `${words.not}: ${within(step.label)}. Another tab has changed the same since.`
  if (step.beneath && !step.byOthers)
    return `${words.done}, your own edit: ${within(step.label)}. Newer ones of another tab stay.`
  return step.byOthers ? `${words.done}, an edit of another tab: ${within(step.label)}` : turnInWords(kind, step.label)
}
