import { applyDials } from '../apply-dials'
import { registry } from '../../nodes/registry.generated'
import { clearCell, findLayer, findPlain, setCell } from './layers'
import { deleteNodes, fedBy, feedersOf, usesOf, wouldCircle } from './nodes'
import { copyCell, duplicateNodes, linkCell } from './copies'
import { sheet, changed, drives } from '../../testing/sheet'

describe('cells', () => {
  it('are copied with nodes of their own, linked with the same ones', () => {
    const from = { layer: 'rust', channel: 'colour' }
    const copied = changed((draft) => copyCell(draft, from, { layer: 'base', channel: 'emission' }))
    const source = findPlain(copied, 'base')!.cells.emission!.source
    expect(source).toEqual({ node: 'tint-2.result' })
    expect(feedersOf(copied, source)).toEqual(['tint-2', 'soft-2', 'noise-2'])
    const linked = changed((draft) => linkCell(draft, from, { layer: 'base', channel: 'emission' }))
    expect(findPlain(linked, 'base')!.cells.emission!.source).toEqual({ node: 'tint.result' })
    expect(Object.keys(linked.nodes)).toHaveLength(3)
  })

  it('that hold a value share a node once linked, and the dial goes on driving it', () => {
    const from = { layer: 'base', channel: 'roughness' }
    const document = changed((draft) => linkCell(draft, from, { layer: 'rust', channel: 'roughness' }))
    expect(findPlain(document, 'rust')!.cells.roughness!.source).toEqual({ node: 'shared.grey' })
    expect(findPlain(document, 'base')!.cells.roughness!.source).toEqual({ node: 'shared.grey' })
    expect(drives(document)).toContainEqual({ node: 'shared', field: 'value', scale: 1, offset: 0 })
    document.dials[0]!.value = 0.9
    expect(applyDials(document).nodes.shared!.params).toEqual({ value: 0.9 })
  })

  it('change blends where they go to or come from the normal channel', () => {
    const document = changed((draft) => {
      setCell(draft, 'base', 'normal', { source: { value: '#8080ff' } })
      copyCell(draft, { layer: 'base', channel: 'normal' }, { layer: 'rust', channel: 'emission' })
      copyCell(draft, { layer: 'base', channel: 'colour' }, { layer: 'rust', channel: 'normal' })
    })
    expect(findPlain(document, 'base')!.cells.normal!.blend).toBe('combine')
    expect(findPlain(document, 'rust')!.cells.emission!.blend).toBe('normal')
    expect(findPlain(document, 'rust')!.cells.normal!.blend).toBe('combine')
  })

  it('give their drives up when cleared', () => {
    expect(drives(changed((draft) => clearCell(draft, 'base', 'roughness')))).toHaveLength(3)
  })
})

describe('nodes', () => {
  it('are deleted with their first input stepping in, else with what read them', () => {
    const healed = changed((draft) => deleteNodes(draft, ['soft'], registry))
    expect(healed.nodes.tint!.inputs).toEqual({ source: 'noise.grey' })
    expect(findLayer(healed, 'wear')!.mask[0]!.source).toEqual({ node: 'noise.grey' })
    const bare = changed((draft) => {
      draft.nodes.tint!.inputs = { source: 'soft.result' }
      deleteNodes(draft, ['tint', 'soft', 'noise'], registry)
    })
    expect(Object.keys(bare.nodes)).toEqual([])
    expect(findPlain(bare, 'rust')!.cells).toEqual({})
    expect(findPlain(bare, 'dust')!.cells).toEqual({})
    expect(drives(bare).some((drive) => 'node' in drive)).toBe(false)
  })

  it('tell who reads them, and refuse circles', () => {
    expect(usesOf(sheet(), 'noise')).toEqual([
      { kind: 'input', node: 'soft', port: 'source' },
      { kind: 'cell', layer: 'dust', channel: 'height' },
    ])
    expect(wouldCircle(sheet(), 'tint', 'noise')).toBe(true)
    expect(wouldCircle(sheet(), 'noise', 'tint')).toBe(false)
    expect(wouldCircle(sheet(), 'noise', 'noise')).toBe(true)
    expect([...fedBy(sheet(), 'noise')].sort()).toEqual(['noise', 'soft', 'tint'])
    expect([...fedBy(sheet(), 'tint')]).toEqual(['tint'])
  })

  it('are duplicated with the wires among them', () => {
    const document = changed((draft) => void duplicateNodes(draft, ['soft', 'tint']))
    expect(document.nodes['tint-2']!.inputs).toEqual({ source: 'soft-2.result' })
    expect(document.nodes['soft-2']!.inputs).toEqual({ source: 'noise.grey' })
  })
})
