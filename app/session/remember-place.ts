import { z } from 'zod'
import type { MaterialDocument } from '#core/document/document'
import { formatStageOutput, isFileOutput, parseStageOutput } from '#core/texture/stage-output'
import { recall, remember } from '../ui/browser-storage'
import type { View, ViewStore } from './view'
import { DISPLACED, STAGE, isPresent } from './view'

const selection = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('layer'), layer: z.string() }),
  z.object({ kind: z.literal('mask'), layer: z.string(), entry: z.number().int().min(0).nullable() }),
  z.object({ kind: z.literal('cell'), layer: z.string(), channel: z.string() }),
  z.object({ kind: z.literal('channel'), channel: z.string() }),
])
const stored = z
  .object({
    selection: selection.nullable(),
    wholeGraph: z.boolean(),
    tab: z.enum(['selection', 'dials', 'states']),
    folded: z.array(z.string()),
    stage: z
      .object({
        shown: z.string().nullable(),
        mode: z.enum(['model', 'flat', 'part']),
        turn: z.number(),
        exposure: z.number(),
        repeat: z.number().int().min(1).max(8),
        displaced: z.enum(DISPLACED).catch(STAGE.displaced),
        dithered: z.boolean(),
      })
      .partial(),
  })
  .partial()
type Kept = z.output<typeof stored>

function keptOf({ selection, wholeGraph, tab, folded, stage }: View): Kept {
  const { shown, mode, turn, exposure, repeat, displaced, dithered } = stage
  const look = {
    mode,
    turn,
    exposure,
    repeat,
    displaced,
    dithered,
    shown: shown && !isFileOutput(shown) ? formatStageOutput(shown) : null,
  }
  return { selection, wholeGraph, tab, folded: [...folded], stage: look }
}

/**
 * Sets a view as this browser last had it for one document, and remembers what changes: what is chosen, the graph, the tab,
 * folded groups, the stage's look. Returns the end.
 */
export function rememberPlace(view: ViewStore, id: string, document: MaterialDocument): () => void {
  const key = `amber-grist-view:${id}`
  const found = recall(key, stored)
  // What is for parts is seen on one, until it was seen otherwise.
  if (document.domain.kind === 'part' && found?.stage?.mode === undefined)
    view.setState(({ stage }) => ({ stage: { ...stage, mode: 'part' } }))
  if (found) {
    const { stage = {}, selection = null, folded, ...rest } = found
    view.setState((now) => ({
      ...rest,
      selection: selection && isPresent(document, selection) ? selection : null,
      folded: new Set(folded ?? now.folded),
      stage: { ...now.stage, ...stage, shown: shownOf(stage.shown ?? null) },
    }))
  }
  return view.subscribe((now, before) => {
    const [next, last] = [keptOf(now), keptOf(before)]
    if (JSON.stringify(next) !== JSON.stringify(last)) remember(key, next)
  })
}

function shownOf(text: string | null): View['stage']['shown'] {
  try {
    return text === null ? null : parseStageOutput(text)
  } catch {
    return null
  }
}
