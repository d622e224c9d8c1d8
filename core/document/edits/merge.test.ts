import fc from 'fast-check'
import type { Layer, MaterialDocument } from '../document'
import { allLayers, parseDocument } from '../document'
import type { Choice } from './merge'
import { mergeDocuments, noRenames, renameIds } from './merge'

const layer = (id: string, more: object = {}): object => ({
  kind: 'layer',
  id,
  name: `Layer ${id}`,
  cells: {},
  ...more,
})
const start = (): MaterialDocument =>
  parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name: 'Wall',
    domain: { kind: 'tile', metres: [1, 1] },
    nodes: { n: { type: 'noise', params: { cells: [4, 4], octaves: 3 } }, c: { type: 'cells' } },
    layers: [layer('a'), { kind: 'group', id: 'g', name: 'G', layers: [layer('b'), layer('c')] }, layer('d')],
    taps: { t: { node: 'n.grey' } },
    dials: [{ id: 'k', label: 'K', default: 0, value: 0, drives: [{ node: 'n', field: 'gain' }] }],
  })
const changed = (change: (draft: MaterialDocument) => void): MaterialDocument => {
  const draft = structuredClone(start())
  change(draft)
  return draft
}
const ids = (document: MaterialDocument): string[] => [...allLayers(document.layers)].map(({ id }) => id)
const find = (document: MaterialDocument, id: string): Layer =>
  [...allLayers(document.layers)].find((one) => one.id === id)!
const nobody = () => undefined
const chosen = (choice: Choice, at: string) => (key: string) => (key === at ? choice : undefined)

test('changes in different places are all there', () => {
  const mine = changed((d) => {
    d.layers[0]!.amount = 0.5
    d.nodes.n!.params!.octaves = 5
    d.layers.push(parseDocument({ ...start(), layers: [layer('mine')] }).layers[0]!)
    ;(d.nodes.n!.params!.cells as number[])[0] = 8
  })
  const theirs = changed((d) => {
    d.layers[0]!.name = 'Ground'
    d.nodes.n!.params!.gain = 0.4
    d.layers.unshift(parseDocument({ ...start(), layers: [layer('theirs')] }).layers[0]!)
    ;(d.nodes.n!.params!.cells as number[])[1] = 6
    d.dials[0]!.value = 0.7
  })
  const { document, clashes } = mergeDocuments(start(), mine, theirs, nobody)
  expect(clashes).toEqual([])
  expect(ids(document)).toEqual(['theirs', 'a', 'g', 'b', 'c', 'd', 'mine'])
  expect(find(document, 'a')).toMatchObject({ name: 'Ground', amount: 0.5 })
  expect(document.nodes.n!.params).toEqual({ cells: [8, 6], octaves: 5, gain: 0.4 })
  expect(document.dials[0]!.value).toBe(0.7)
})

test('a layer that one moved and the other changed is moved and changed', () => {
  const mine = changed((d) => {
    const [moved] = d.layers.splice(2, 1)
    ;(d.layers[1] as { layers: Layer[] }).layers.push(moved!)
  })
  const theirs = changed((d) => void (d.layers[2]!.amount = 0.2))
  const { document, clashes } = mergeDocuments(start(), mine, theirs, nobody)
  expect(clashes).toEqual([])
  expect((find(document, 'g') as { layers: Layer[] } & Layer).layers.map(({ id }) => id)).toEqual(['b', 'c', 'd'])
  expect(find(document, 'd').amount).toBe(0.2)
})

test('what was put into a group that the other deleted is kept', () => {
  const mine = changed((d) => {
    const group = d.layers[1] as { layers: Layer[] }
    group.layers.push(parseDocument({ ...start(), layers: [layer('new')] }).layers[0]!)
  })
  const theirs = changed((d) => void d.layers.splice(1, 1))
  expect(ids(mergeDocuments(start(), mine, theirs, nobody).document).sort()).toEqual(['a', 'd', 'new'])
})

test('the same place is asked about, with both values, and goes as chosen', () => {
  const mine = changed((d) => void (d.layers[0]!.amount = 0.1))
  const theirs = changed((d) => void (d.layers[0]!.amount = 0.9))
  const open = mergeDocuments(start(), mine, theirs, nobody)
  expect(open.clashes).toEqual([{ key: 'layers/a/amount', path: ['layers', 'a', 'amount'], mine: 0.1, theirs: 0.9 }])
  for (const [choice, amount] of [
    ['mine', 0.1],
    ['theirs', 0.9],
  ] as const) {
    const { document, clashes } = mergeDocuments(start(), mine, theirs, chosen(choice, 'layers/a/amount'))
    expect([clashes, document.layers[0]!.amount]).toEqual([[], amount])
  }
})

test('deleting what the other changed, and orders that differ, are asked about', () => {
  const gone = changed((d) => void d.layers.splice(0, 1))
  const changedThere = changed((d) => void (d.layers[0]!.name = 'Ground'))
  expect(mergeDocuments(start(), gone, changedThere, nobody).clashes.map(({ key }) => key)).toEqual(['layers/a'])
  expect(ids(mergeDocuments(start(), gone, changedThere, chosen('mine', 'layers/a')).document)).not.toContain('a')
  const [first, last] = [changed((d) => void d.layers.reverse()), changed((d) => void d.layers.push(d.layers.shift()!))]
  expect(mergeDocuments(start(), first, last, nobody).clashes.map(({ key }) => key)).toEqual(['layers//order'])
  expect(ids(mergeDocuments(start(), first, last, chosen('mine', 'layers//order')).document)).toEqual(ids(first))
})

test('two groups moved into each other lose nothing', () => {
  const base = changed(
    (d) => void d.layers.push({ kind: 'group', id: 'h', name: 'H', amount: 1, mask: [], closed: false, layers: [] }),
  )
  const into = (inner: string, outer: string): MaterialDocument => {
    const draft = structuredClone(base)
    const [moved] = draft.layers.splice(
      draft.layers.findIndex(({ id }) => id === inner),
      1,
    )
    ;(draft.layers.find(({ id }) => id === outer) as { layers: Layer[] }).layers.push(moved!)
    return draft
  }
  const { document } = mergeDocuments(base, into('g', 'h'), into('h', 'g'), nobody)
  expect(ids(document).sort()).toEqual(['a', 'b', 'c', 'd', 'g', 'h'])
})

test('merging with a copy that is unchanged gives the other, whatever it is', () => {
  fc.assert(
    fc.property(fc.array(fc.nat(7), { maxLength: 6 }), (steps) => {
      const other = changed((d) => {
        for (const step of steps) STEPS[step]!(d)
      })
      for (const [mine, theirs] of [
        [start(), other],
        [other, start()],
        [other, other],
      ] as const)
        expect(mergeDocuments(start(), mine, theirs, nobody)).toEqual({ document: other, clashes: [] })
    }),
  )
})

const STEPS: ((draft: MaterialDocument) => void)[] = [
  (d) => void d.layers.reverse(),
  (d) => void d.layers.pop(),
  (d) => void (d.seed += 1),
  (d) => void delete d.nodes.c,
  (d) => void (d.nodes.x = { type: 'noise' }),
  (d) => void (d.dials = []),
  (d) => void (d.layers[0] && (d.layers[0].amount = 0.3)),
  (d) => void (d.taps = {}),
]

test('a new id is written wherever the old one stood', () => {
  const renames = noRenames()
  renames.nodes.set('n', 'n-2')
  renames.layers.set('a', 'a-2')
  renames.taps.set('t', 't-2')
  renames.dials.set('k', 'k-2')
  const document = changed((d) => {
    d.nodes.c!.inputs = { at: 'n.grey', other: { tap: 't' } }
    d.layers[0]!.mask = [{ source: { tap: 't' }, mode: 'multiply', amount: 1, invert: false }]
    d.taps.whole = { layer: 'a', mask: true }
    d.dials[0]!.drives.push({ layer: 'a', field: 'amount', scale: 1, offset: 0 })
  })
  const text = JSON.stringify(renameIds(document, renames))
  expect(text).not.toMatch(/"n"|"n\.|"a"|"t"|"k"/)
  expect(renameIds(document, noRenames())).toBe(document)
  expect(parseDocument(JSON.parse(text))).toMatchObject({ taps: { whole: { layer: 'a-2', mask: true } } })
})
