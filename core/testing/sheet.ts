import type { MaterialDocument } from '../document/document'
import { parseOutput } from '../document/address'
import { parseDocument } from '../document/document'
import { expandDocument } from '../compose/expand'
import { registry } from '../nodes/registry.generated'
import { documentOf } from './examples'

export const value = (v: number | string) => ({ source: { value: v } })

/** Three layers, a group of two, a chain of nodes, a tap, a dial on each kind of target. */
export const sheet = (): MaterialDocument =>
  documentOf({
    nodes: {
      noise: { type: 'noise', at: [0, 0] },
      soft: { type: 'blur', inputs: { source: 'noise.grey' } },
      tint: { type: 'gradient-remap', inputs: { source: 'soft.result' } },
    },
    layers: [
      { kind: 'layer', id: 'base', name: 'Base', cells: { colour: value('#808080'), roughness: value(0.5) } },
      {
        kind: 'group',
        id: 'wear',
        name: 'Wear',
        mask: [{ source: { node: 'soft.result' } }, { source: { value: 0.25 } }, { source: { value: 0.75 } }],
        layers: [
          { kind: 'layer', id: 'rust', name: 'Rust', cells: { colour: { source: { node: 'tint.result' } } } },
          { kind: 'layer', id: 'dust', name: 'Dust', cells: { height: { source: { tap: 'grain' } } } },
        ],
      },
      {
        kind: 'correction',
        id: 'overall',
        name: 'Overall',
        cells: { roughness: { source: { backdrop: 'roughness' } } },
      },
    ],
    taps: { grain: { node: 'noise.grey' }, rusty: { layer: 'rust', channel: 'colour' } },
    dials: [
      {
        id: 'worn',
        label: 'Worn',
        min: 0,
        max: 1,
        default: 0.5,
        value: 0.5,
        drives: [
          { layer: 'wear', entry: 1, field: 'value' },
          { layer: 'wear', entry: 2, field: 'amount' },
          { layer: 'base', channel: 'roughness', field: 'value' },
          { node: 'noise', field: 'gain', scale: 0.5 },
        ],
      },
    ],
  })

export const order = (document: MaterialDocument): string => {
  const list = (layers: MaterialDocument['layers']): string =>
    layers.map((layer) => (layer.kind === 'group' ? `${layer.id}(${list(layer.layers)})` : layer.id)).join(' ')
  return list(document.layers)
}
/** A document is sound if it reads and every channel can be built. */
export const sound = (document: MaterialDocument): MaterialDocument => {
  const read = parseDocument(JSON.parse(JSON.stringify(document)))
  expandDocument(read, registry, ['colour', 'height', 'roughness', 'metallic', 'normal', 'occlusion'].map(parseOutput))
  return read
}
export const changed = (work: (draft: MaterialDocument) => unknown, from = sheet()): MaterialDocument => {
  work(from)
  return sound(from)
}
export const drives = (document: MaterialDocument) => document.dials[0]!.drives
