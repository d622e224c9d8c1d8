import type { MaterialDocument } from '../document/document'
import { documentOf } from './examples'

/**
 * A document of many nodes and layers, made by rule: chains of nodes that meet, layers with masks over six channels, groups.
 * With 1000 and 256 it is the largest that documents may be.
 */
export function limitDocument(nodes: number, layers: number): MaterialDocument {
  const id = (i: number): string => `n${i}`
  const made: Record<string, unknown> = {}
  for (let i = 0; i < nodes; i++) {
    const from = (back: number): string => `${id(i - back)}.${made[id(i - back)] && i - back < 8 ? 'grey' : 'result'}`
    if (i < 8) made[id(i)] = { type: 'noise', params: { cells: [4 + i, 4 + i], seed: i } }
    else if (i % 4 === 0)
      made[id(i)] = {
        type: 'blend',
        params: { mode: 'multiply', amount: 0.5 },
        inputs: { base: from(1), source: from(8) },
      }
    else if (i % 4 === 1)
      made[id(i)] = { type: 'levels', params: { gamma: 1 + (i % 7) / 10 }, inputs: { source: from(1) } }
    else if (i % 4 === 2) made[id(i)] = { type: 'blur', params: { radius: 0.002 }, inputs: { source: from(2) } }
    else made[id(i)] = { type: 'invert', inputs: { source: from(1) } }
  }
  const channels = ['colour', 'height', 'roughness', 'metallic', 'opacity', 'emission']
  const port = (i: number): string => `${id(8 + (i % (nodes - 8)))}.result`
  const layer = (i: number): Record<string, unknown> => ({
    kind: 'layer',
    id: `l${i}`,
    name: `Layer ${i}`,
    amount: 0.9,
    mask: [{ source: { node: port(i * 31) } }, { source: { node: port(i * 17 + 3) }, mode: 'multiply', amount: 0.5 }],
    cells: Object.fromEntries(
      channels.map((channel, c) => [
        channel,
        {
          source: c % 3 === 2 ? { value: 0.4 } : { node: port(i * 13 + c * 7) },
          blend: c % 2 ? 'normal' : 'multiply',
          amount: 0.8,
        },
      ]),
    ),
  })
  const list: unknown[] = []
  let count = 0
  for (let i = 0; count < layers; i++) {
    const own = layer(i)
    const grouped = i % 8 === 7 && count + 3 <= layers
    count += grouped ? 3 : 1
    if (grouped)
      list.push({ kind: 'group', id: `g${i}`, name: `Group ${i}`, closed: i % 16 === 15, layers: [own, layer(++i)] })
    else list.push(own)
  }
  return documentOf({
    nodes: made,
    layers: list,
    dials: [
      { id: 'worn', label: 'Worn', min: 0, max: 1, default: 0.5, value: 0.5, drives: [{ node: 'n1', field: 'gain' }] },
    ],
  })
}
