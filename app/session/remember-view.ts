import { z } from 'zod'
import { recall, remember } from '../ui/browser-storage'
import type { View, ViewStore } from './view'
import { BACKGROUNDS, ENVIRONMENTS, PREVIEW_WIDTHS, SHAPES, SHEET_SIZES } from './view'

const KEY = 'amber-grist-view'

const stored = z
  .object({
    width: z.union(PREVIEW_WIDTHS.map((width) => z.literal(width))),
    shape: z.enum(SHAPES),
    environment: z.enum(ENVIRONMENTS),
    picture: z.string(),
    background: z.enum(BACKGROUNDS),
    sheet: z.object({
      size: z.enum(SHEET_SIZES),
      hidden: z.array(z.string()).readonly(),
      order: z.array(z.string()).readonly(),
      onlyUsed: z.boolean(),
    }),
  })
  .partial()
type Kept = z.output<typeof stored>

const keptOf = ({ width, widthFollows, sheet, stage: { shape, environment, picture, background } }: View): Kept => ({
  ...(widthFollows ? {} : { width }),
  shape,
  environment,
  picture,
  background,
  sheet,
})

/** Sets a view as this browser last had it, and remembers what changes: preview size, shape, light, rows and columns. Returns the end. */
export function rememberView(view: ViewStore): () => void {
  const found = recall(KEY, stored)
  if (found) {
    const { width, sheet, ...stage } = found
    view.setState((now) => ({
      ...(width ? { width, widthFollows: false } : {}),
      ...(sheet ? { sheet } : {}),
      stage: { ...now.stage, ...stage },
    }))
  }
  return view.subscribe((now, before) => {
    const [next, last] = [keptOf(now), keptOf(before)]
    if (JSON.stringify(next) !== JSON.stringify(last)) remember(KEY, next)
  })
}
