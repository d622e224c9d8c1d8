import { z } from 'zod'
import type { View, ViewStore } from './view'
import { ENVIRONMENTS, PREVIEW_WIDTHS, SHAPES } from './view'

const KEY = 'amber-grist-view'

const kept = z
  .object({
    width: z.union(PREVIEW_WIDTHS.map((width) => z.literal(width))),
    shape: z.enum(SHAPES),
    environment: z.enum(ENVIRONMENTS),
  })
  .partial()
type Kept = z.output<typeof kept>

const keptOf = ({ width, stage: { shape, environment } }: View): Kept => ({ width, shape, environment })

/** Sets a view as this browser last had it, and remembers what changes: preview size, shape, light. Returns the end. */
export function keepView(view: ViewStore): () => void {
  try {
    const found = kept.safeParse(JSON.parse(localStorage.getItem(KEY) ?? '{}'))
    if (found.success) {
      const { width, ...stage } = found.data
      view.setState((now) => ({ width: width ?? now.width, stage: { ...now.stage, ...stage } }))
    }
  } catch {
    // Without storage, or with what is not ours in it, the view is the usual one.
  }
  return view.subscribe((now, before) => {
    const [next, last] = [now, before].map((one) => JSON.stringify(keptOf(one)))
    if (next === last) return
    try {
      localStorage.setItem(KEY, next!)
    } catch {
      // See above.
    }
  })
}
