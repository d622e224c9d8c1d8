import { documentOf } from '../../testing/examples'
import { sheet, value } from '../../testing/sheet'
import { dropTap, findPlain, setCell } from './layers'
import { nameResult, renameTap, tapName, unnameResult, usesOfTap } from './taps'

it('an output, a cell and a mask get names of their own', () => {
  const document = sheet()
  expect(nameResult(document, { node: 'soft', port: 'result' }, 'Soft grain')).toBe('soft-grain')
  expect(nameResult(document, { layer: 'rust', channel: 'colour' }, 'Soft grain')).toBe('soft-grain-2')
  expect(nameResult(document, { layer: 'wear', mask: true }, 'Wear, mask')).toBe('wear-mask')
  expect(document.taps).toMatchObject({
    'soft-grain': { name: 'Soft grain', node: 'soft.result' },
    'soft-grain-2': { name: 'Soft grain 2', node: 'tint.result' },
    'wear-mask': { name: 'Wear, mask', layer: 'wear', mask: true },
  })
  expect(nameResult(document, { layer: 'rust', mask: true }, 'x')).toBeNull()
  expect(nameResult(document, { layer: 'rust', channel: 'height' }, 'x')).toBeNull()
})

it('a plain value becomes a node that the cell and the name share', () => {
  const document = documentOf({ layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { roughness: value(0.25) } }] })
  expect(nameResult(document, { layer: 'a', channel: 'roughness' }, 'Dry')).toBe('dry')
  expect(findPlain(document, 'a')!.cells.roughness!.source).toEqual({ node: 'shared.grey' })
  expect(document.nodes.shared!.params).toEqual({ value: 0.25 })
})

it('is renamed, found where it is read, and taken away with its readers left on the node', () => {
  const document = sheet()
  expect(tapName(document, 'grain')).toBe('grain')
  renameTap(document, 'grain', ' Fine grain ')
  expect(tapName(document, 'grain')).toBe('Fine grain')
  expect(usesOfTap(document, 'grain')).toEqual([{ kind: 'cell', layer: 'dust', channel: 'height' }])
  unnameResult(document, 'grain', dropTap)
  expect(findPlain(document, 'dust')!.cells.height!.source).toEqual({ node: 'noise.grey' })
  setCell(document, 'base', 'emission', { source: { tap: 'rusty' } })
  unnameResult(document, 'rusty', dropTap)
  expect(findPlain(document, 'base')!.cells.emission).toBeUndefined()
})
