import type { Actions } from './actions/actions'
import { ENVIRONMENTS, PREVIEW_WIDTHS, SHAPES, shapeInWords } from './view'

/** Something that can be done, found by its words. */
export interface CommandEntry {
  readonly words: string
  readonly keys?: string
  readonly run: () => void
}

/** What can be done with the stage, on every screen that has one. */
export const stageCommands = (actions: Actions): CommandEntry[] => [
  { words: 'Show the lit material', run: () => actions.setStage({ shown: null }) },
  { words: 'Model view: plain grey with baked data', run: () => actions.setStage({ mode: 'part' }) },
  { words: 'Flat view', run: () => actions.setStage({ mode: 'flat' }) },
  { words: 'Flat view, 3 × 3 tiles', run: () => actions.setStage({ mode: 'flat', repeat: 3 }) },
  ...SHAPES.map((shape) => ({
    words: `Show on a ${shapeInWords(shape)}`,
    run: () => actions.setStage({ mode: 'model', shape }),
  })),
  ...ENVIRONMENTS.map((environment) => ({
    words: `Light: ${environment === 'own' ? 'own picture' : environment}`,
    run: () => actions.setStage({ environment }),
  })),
  ...PREVIEW_WIDTHS.map((width) => ({ words: `Preview at ${width}`, run: () => actions.setView({ width }) })),
]
