import { z } from 'zod'
import { recall, remember } from '../../ui/browser-storage'

/** The largest graphs of the demo are seen whole at .17. */
export const MIN_ZOOM = 0.1
export const MAX_ZOOM = 1.6

const viewport = z.object({ x: z.number(), y: z.number(), zoom: z.number().min(MIN_ZOOM).max(MAX_ZOOM) })
export type StoredViewport = z.output<typeof viewport>
const stored = z.array(z.tuple([z.string(), viewport]))

/** Places whose views are kept for one document, the last used. */
const KEPT = 64

/** How the graph behind each place of a document was last looked at, in this browser. */
export function rememberedViewports(document: string) {
  const key = `amber-grist-graph:${document}`
  const known = new Map(recall(key, stored) ?? [])
  return {
    get: (subject: string): StoredViewport | undefined => known.get(subject),
    set(subject: string, { x, y, zoom }: StoredViewport): void {
      known.delete(subject)
      known.set(subject, { x: Math.round(x), y: Math.round(y), zoom })
      remember(key, [...known].slice(-KEPT))
    },
  }
}
