import { produce } from 'immer'
import type { Layer, MaterialDocument } from '../document'
import { allLayers } from '../document'
import { findLayer, findPlain } from './layers'

/** Something that can be off, alone, or held off for a before/after. */
export type Toggleable =
  | { readonly layer: string }
  | { readonly layer: string; readonly channel: string }
  | { readonly layer: string; readonly entry: number }
  | { readonly node: string }

export const sameToggleable = (a: Toggleable | null, b: Toggleable | null): boolean =>
  JSON.stringify(a) === JSON.stringify(b)

type Toggles = { off?: boolean }

/** The member of a draft that carries `off`. */
export function toggleable(draft: MaterialDocument, what: Toggleable): Toggles | undefined {
  if ('node' in what) return Object.hasOwn(draft.nodes, what.node) ? draft.nodes[what.node] : undefined
  if ('channel' in what) return findPlain(draft, what.layer)?.cells[what.channel]
  const layer = findLayer(draft, what.layer)
  return 'entry' in what ? layer?.mask[what.entry] : layer
}

/** Switches it off, or on again. */
export function setOff(draft: MaterialDocument, what: Toggleable, off: boolean): void {
  const found = toggleable(draft, what)
  if (!found) return
  if (off) found.off = true
  else delete found.off
}

/** A copy in which `what` is the other way round: the "before" of a before/after. */
export const without = (document: MaterialDocument, what: Toggleable): MaterialDocument =>
  produce(document, (draft) => setOff(draft, what, !(toggleable(draft, what)?.off ?? false)))

/**
 * A copy in which `what` is alone: a layer over nothing but what lies around it in its own groups, a cell in its
 * channel, an entry in its mask. A node stays as it is; it is shown by its port. What did not change is shared.
 */
export function solo(document: MaterialDocument, what: Toggleable): MaterialDocument {
  if ('node' in what) return document
  if ('entry' in what)
    return produce(document, (draft) => {
      findLayer(draft, what.layer)?.mask.forEach((entry, index) => (entry.off = index !== what.entry))
    })
  const keep = new Set([what.layer])
  const target = findLayer(document, what.layer)
  const inside = new Set(target?.kind === 'group' ? [...allLayers(target.layers)].map((layer) => layer.id) : [])
  const around = (layers: readonly Layer[]): boolean =>
    layers.some((layer) => {
      const holds = layer.id === what.layer || (layer.kind === 'group' && around(layer.layers))
      if (holds) keep.add(layer.id)
      return holds
    })
  around(document.layers)
  return produce(document, (draft) => {
    for (const layer of allLayers(draft.layers)) {
      if ('channel' in what) {
        if (layer.kind === 'group') continue
        const cell = findPlain(draft, layer.id)?.cells[what.channel]
        if (cell) cell.off = layer.id !== what.layer
      } else if (keep.has(layer.id)) delete layer.off
      else if (!inside.has(layer.id)) layer.off = true
    }
  })
}
