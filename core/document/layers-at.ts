import { applyDials } from './apply-dials'
import type { Layer, MaterialDocument } from './document'

/** What a layer does to a channel at one place. */
export interface LayerAt {
  readonly layer: string
  /** How much of it is mixed in there, 0–1: its mask, its amount and the cell's, and those of the groups around it. */
  readonly covers: number
  /** What the layers above leave of that, 0–1. */
  readonly shows: number
  /** It changes what lies below and brings nothing of its own: a correction. */
  readonly corrects: boolean
}

/** Of the layer that shows most, the share from which one above it counts as the topmost that shows. */
const TOPMOST = 0.5

/**
 * The layers that have a part in a channel at one place, top first; dials are applied. `maskAt` gives a layer's or group's whole
 * mask there, 0–1. A layer hides what lies below it as far as it covers where it blends normally; other blends and corrections
 * change what is there and hide nothing.
 */
export function layersAt(document: MaterialDocument, channel: string, maskAt: (layer: string) => number): LayerAt[] {
  const found: LayerAt[] = []
  const { layers } = applyDials(document, () => {})
  /** `left` is what layers above leave; gives what these leave. */
  const through = (ones: readonly Layer[], within: number, left: number): number =>
    ones.reduceRight((rest, layer) => {
      if (layer.off) return rest
      const covers = within * layer.amount * maskAt(layer.id)
      if (layer.kind === 'group') return through(layer.layers, covers, rest)
      const cell = layer.cells[channel]
      if (!cell || cell.off || covers * cell.amount <= 0) return rest
      const own = covers * cell.amount
      found.push({ layer: layer.id, covers: own, shows: own * rest, corrects: layer.kind === 'correction' })
      return layer.kind === 'layer' && (cell.blend === 'normal' || cell.blend === 'replace') ? rest * (1 - own) : rest
    }, left)
  through(layers, 1, 1)
  return found
}

/** The topmost layer that shows: at least half as much as the one that shows most; corrections show nothing of their own. */
export function topmostOf(found: readonly LayerAt[]): LayerAt | null {
  const layers = found.filter(({ corrects }) => !corrects)
  const most = Math.max(0, ...layers.map(({ shows }) => shows))
  return layers.find(({ shows }) => shows > 0 && shows >= TOPMOST * most) ?? null
}
