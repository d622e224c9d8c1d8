import { formatOutput } from '#core/document/address'
import { documentOf } from '#core/testing/examples'
import { isSought } from './find-layers'
import { cellOf, countLayers, matchingRows, selectionAt, sheetOutputs, sheetRows, stepFrom, writesTo } from './rows'

const document = documentOf({
  layers: [
    { kind: 'layer', id: 'base', name: 'Base', cells: { colour: { source: { value: '#808080' } } } },
    {
      kind: 'group',
      id: 'wear',
      name: 'Wear',
      off: true,
      mask: [{ source: { value: 0.5 } }, { source: { value: 1 } }],
      layers: [
        { kind: 'layer', id: 'rust', name: 'Rust', cells: { colour: { source: { value: '#a04020' } } } },
        { kind: 'layer', id: 'dust', name: 'Dust' },
      ],
    },
    { kind: 'correction', id: 'top', name: 'Top' },
  ],
})
const none = new Set<string>()
const rows = sheetRows(document.layers, none)
const channels = ['colour', 'height']

it('rows run from the top down, as the layers lie, with what groups hold below them', () => {
  expect(rows.map(({ layer, depth }) => `${layer.id} ${depth}`)).toEqual([
    'top 0',
    'wear 0',
    'dust 1',
    'rust 1',
    'base 0',
  ])
  expect(countLayers(document)).toBe(5)
})

it('rows that match come with the groups around them, folded or not', () => {
  const named = (name: string) => matchingRows(document.layers, (layer) => isSought(document, layer, name))
  expect(named('rust').map(({ layer, depth }) => `${layer.id} ${depth}`)).toEqual(['wear 0', 'rust 1'])
  expect(named('TOP')).toHaveLength(1)
  // By what a cell reads; both words must be there.
  expect(named('base #808080').map(({ layer }) => layer.id)).toEqual(['base'])
  expect(named('base rust')).toEqual([])
})

it('what lies in a group that is off is dark too, and a folded group hides what it holds', () => {
  expect(rows.filter(({ disabled }) => disabled).map(({ layer }) => layer.id)).toEqual(['wear', 'dust', 'rust'])
  expect(sheetRows(document.layers, new Set(['wear'])).map(({ layer }) => layer.id)).toEqual(['top', 'wear', 'base'])
})

it('a grid cell is a place, and a place a grid cell', () => {
  for (const at of [
    { row: 'base', column: 'colour' },
    { row: 'base', column: 'layer' },
    { row: 'base', column: 'mask' },
    { row: 'head', column: 'height' },
  ])
    expect(cellOf(selectionAt(at.row, at.column))).toEqual(at)
})

describe('arrows', () => {
  const step = (row: string, column: string, key: string) => {
    const to = stepFrom(rows, channels, { row, column }, key)
    return `${to.row}/${to.column}`
  }

  it('go from cell to cell and stop at the edges', () => {
    expect(step('top', 'colour', 'ArrowRight')).toBe('top/height')
    expect(step('top', 'height', 'ArrowRight')).toBe('top/height')
    expect(step('top', 'colour', 'ArrowLeft')).toBe('top/layer')
    expect(step('top', 'layer', 'ArrowLeft')).toBe('top/mask')
    expect(step('base', 'colour', 'ArrowDown')).toBe('base/colour')
    expect(step('rust', 'mask', 'ArrowDown')).toBe('base/mask')
    expect(step('dust', 'height', 'Home')).toBe('dust/mask')
    expect(step('dust', 'mask', 'End')).toBe('dust/height')
  })

  it('reach the heads of the channels, which have neither mask nor layer', () => {
    expect(step('top', 'height', 'ArrowUp')).toBe('head/height')
    expect(step('top', 'layer', 'ArrowUp')).toBe('top/layer')
    expect(step('head', 'colour', 'ArrowLeft')).toBe('head/colour')
    expect(step('head', 'colour', 'ArrowDown')).toBe('top/colour')
  })

  it('from any cell, any run of them stays on the grid', () => {
    const keys = ['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight', 'Home', 'End']
    let at = { row: 'dust', column: 'colour' }
    for (let i = 0; i < 500; i++) {
      at = stepFrom(rows, channels, at, keys[(i * 7 + (i >> 3)) % keys.length]!)
      const columns = at.row === 'head' ? channels : ['mask', 'layer', ...channels]
      expect(columns).toContain(at.column)
      expect(['head', ...rows.map(({ layer }) => layer.id)]).toContain(at.row)
    }
  })
})

it('asks for results, masks, what cells put in, and what groups come to', () => {
  expect(sheetOutputs(rows, channels, null).map(formatOutput)).toEqual([
    'colour',
    'height',
    'layer:wear:mask',
    'layer:wear:colour',
    'cell:rust:colour',
    'cell:base:colour',
  ])
  const withEntries = sheetOutputs(rows, channels, { kind: 'mask', layer: 'wear', entry: 1 })
  expect(withEntries.filter(({ kind }) => kind === 'entry').map(formatOutput)).toEqual(['entry:wear:0', 'entry:wear:1'])
})

it('knows what a group writes to through what it holds', () => {
  const wear = document.layers[1]!
  expect(writesTo(wear, 'colour')).toBe(true)
  expect(writesTo(wear, 'height')).toBe(false)
})
