import fc from 'fast-check'
import { registry } from '#core/nodes/registry.generated'
import { documentOf } from '#core/testing/examples'
import { cardSize, fixedCardSize } from './card-size'
import { OUTPUT_CARD, nodeGraph, placesOf, tidyPlaces } from './node-graph'
import { scoreOf } from '../palette/score'

const document = documentOf({
  nodes: {
    noise: { type: 'noise' },
    soft: { type: 'blur', inputs: { source: 'noise.grey' } },
    tint: { type: 'gradient-remap', inputs: { source: 'soft.result' } },
    slopes: { type: 'height-to-normal', inputs: { height: 'tint.result' } },
    loose: { type: 'cells' },
    apart: { type: 'ramp' },
  },
  taps: { worn: { node: 'soft.result' } },
  layers: [
    {
      kind: 'layer',
      id: 'base',
      name: 'Base',
      mask: [{ source: { tap: 'worn' } }],
      cells: {
        colour: { source: { node: 'tint.result' } },
        normal: { source: { node: 'slopes.normal' } },
        height: { source: { node: 'apart.grey' } },
        roughness: { source: { value: 0.4 } },
      },
    },
  ],
})
const graph = (place: Parameters<typeof nodeGraph>[2], whole = false) => nodeGraph(document, registry, place, whole)

it('shows what feeds a cell, and what feeds nothing yet', () => {
  const { nodes, near, outputCards } = graph({ kind: 'cell', layer: 'base', channel: 'colour' })
  expect([...near].sort()).toEqual(['noise', 'soft', 'tint'])
  expect(nodes).toEqual(['noise', 'soft', 'tint', 'loose'])
  expect(outputCards).toEqual([
    expect.objectContaining({
      id: `${OUTPUT_CARD}base`,
      ports: [expect.objectContaining({ id: 'colour', type: 'colour' })],
    }),
  ])
})

it('follows taps into a mask', () => {
  const { near, wires } = graph({ kind: 'mask', layer: 'base', entry: null })
  expect([...near].sort()).toEqual(['noise', 'soft'])
  expect(wires).toContainEqual(
    expect.objectContaining({ from: 'soft.result', to: { card: `${OUTPUT_CARD}base`, port: 'mask0' }, type: 'grey' }),
  )
})

it('shows everything on request, with a card for all that takes nodes in; what is not near is faint', () => {
  const { nodes, near, outputCards } = graph({ kind: 'cell', layer: 'base', channel: 'height' }, true)
  expect(nodes).toEqual(Object.keys(document.nodes))
  expect([...near]).toEqual(['apart'])
  expect(outputCards[0]!.ports.map(({ id }) => id)).toEqual(['mask0', 'colour', 'height', 'normal'])
})

it('an empty mask and an empty cell have a port to wire into', () => {
  expect(graph({ kind: 'cell', layer: 'base', channel: 'metallic' }).outputCards[0]!.ports[0]).toMatchObject({
    id: 'metallic',
    place: { kind: 'cell', layer: 'base', channel: 'metallic' },
  })
  const bare = documentOf({ layers: [{ kind: 'group', id: 'g', name: 'G', layers: [] }] })
  const [outputCard] = nodeGraph(bare, registry, { kind: 'mask', layer: 'g', entry: null }, false).outputCards
  expect(outputCard!.ports).toEqual([
    { id: 'mask0', word: 'mask', type: 'grey', place: { kind: 'mask', layer: 'g', entry: 0 } },
  ])
})

it('says on the wire what is converted', () => {
  const { wires } = graph(null)
  const into = (card: string) => wires.find((wire) => wire.to.card === card)!.conversion
  expect(into('slopes')).toBe('colour → grey, by luminance')
  expect(into('soft')).toBeNull()
})

it('lays cards out left to right along the wires, without one over another', () => {
  const all = graph(null, true)
  const places = tidyPlaces(all, () => ({ width: 156, height: 80 }))
  for (const { from, to } of all.wires)
    expect(places.get(to.card)![0]).toBeGreaterThan(places.get(from.split('.')[0]!)![0])
  const list = [...places.values()]
  for (const [i, a] of list.entries())
    for (const b of list.slice(i + 1)) expect(Math.abs(a[0] - b[0]) >= 156 || Math.abs(a[1] - b[1]) >= 80).toBe(true)
})

it('finds by any words, names first', () => {
  const blur = 'blur filter Softens. gaussian smooth'
  expect(scoreOf(blur, 'blur', 'gauss soft')).toBeGreaterThan(0)
  expect(scoreOf(blur, 'blur', 'blur')).toBeGreaterThan(scoreOf(blur, 'noise', 'soft'))
  expect(scoreOf(blur, 'blur', 'sharpen')).toBe(0)
})

it('cards are as high as their ports need, and as wide as their words', () => {
  expect(cardSize(registry.get('noise'))).toEqual({ width: 156, height: 50 + 17 + 4 })
  const [plain, wordy] = [cardSize(registry.get('blend')), cardSize(registry.get('height-blend'))]
  expect(wordy.width).toBeGreaterThan(plain.width)
  for (const node of registry.values()) {
    const { width, height } = cardSize(node)
    expect(width).toBeLessThan(320)
    expect(height).toBeGreaterThanOrEqual(50 + 17 * Math.max(Object.keys(node.inputs).length, 1))
  }
  expect(fixedCardSize(3).height - fixedCardSize(2).height).toBe(17)
})

describe('places', () => {
  const size = (card: string) => ({ width: 150 + (card.length % 3) * 20, height: 60 + (card.length % 4) * 25 })
  const pair = fc.tuple(fc.integer({ min: -300, max: 900 }), fc.integer({ min: -300, max: 600 }))

  it('that were given stay, and no other card covers one or is covered', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.string({ minLength: 1, maxLength: 12, unit: fc.constantFrom('a', 'b', 'c', 'd') }), {
          minLength: 2,
          maxLength: 14,
        }),
        fc.array(fc.tuple(fc.nat(13), fc.nat(13)), { maxLength: 20 }),
        fc.array(fc.option(pair), { minLength: 14, maxLength: 14 }),
        (nodes, links, given) => {
          const wires = links.flatMap(([a, b]) => {
            const [from, to] = [nodes[Math.min(a, b)], nodes[Math.max(a, b)]]
            return from && to && from !== to
              ? [
                  {
                    id: `${from}>${to}`,
                    from: `${from}.grey`,
                    type: 'grey',
                    to: { card: to, port: 'x' },
                    conversion: null,
                  } as const,
                ]
              : []
          })
          const graph = { nodes, outputCards: [], belowCard: null, wires }
          const own = new Map(nodes.flatMap((id, i) => (given[i] ? [[id, given[i]] as const] : [])))
          const places = placesOf(graph, own, tidyPlaces(graph, size), size)
          for (const [card, place] of own) expect(places.get(card)).toEqual(place)
          const covers = (a: string, b: string): boolean => {
            const [[ax, ay], [bx, by]] = [places.get(a)!, places.get(b)!]
            const [as, bs] = [size(a), size(b)]
            return ax < bx + bs.width && bx < ax + as.width && ay < by + bs.height && by < ay + as.height
          }
          for (const a of nodes)
            for (const b of nodes)
              if (a !== b && !(own.has(a) && own.has(b))) expect([a, b, covers(a, b)]).toEqual([a, b, false])
        },
      ),
    )
  })
})
