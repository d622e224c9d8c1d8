import { produce } from 'immer'
import { parseOutput } from '../address'
import fc from 'fast-check'
import type { MaterialDocument } from '../document'
import { allLayers, parseDocument } from '../document'
import { expandDocument } from '../../compose/expand'
import { registry } from '../../nodes/registry.generated'
import {
  addChannel,
  addLayer,
  addMaskEntry,
  deleteChannel,
  deleteLayer,
  deleteMaskEntry,
  enterGroup,
  findLayer,
  findPlain,
  joinEntry,
  moveLayer,
  moveMaskEntry,
  setCell,
  stepLayer,
} from './layers'
import { clipMask, readClip } from './clip'
import { duplicateEntry } from './copies'
import { duplicateLayer, giveOwnNodes, sharedNodes } from './fragment'
import { value, sheet, order, changed, drives } from '../../testing/sheet'

describe('layers', () => {
  it('are added above the chosen one, in its group, with ids and names of their own', () => {
    const document = changed((draft) => {
      addLayer(draft, 'layer', 'rust', 'Rust')
      addLayer(draft, 'correction', null)
      addLayer(draft, 'group', 'base')
    })
    expect(order(document)).toBe('base group() wear(rust rust-2 dust) overall correction')
    expect(findLayer(document, 'rust-2')!.name).toBe('Rust 2')
  })

  it('are duplicated with what they hold', () => {
    const document = changed((draft) => void duplicateLayer(draft, 'wear'))
    expect(order(document)).toBe('base wear(rust dust) wear-2(rust-2 dust-2) overall')
    // Its nodes are its own, and turned by the dials that turn the original's.
    expect(findPlain(document, 'rust-2')!.cells.colour!.source).toEqual({ node: 'tint-2.result' })
    expect(document.nodes['tint-2']!.inputs).toEqual({ source: 'soft-2.result' })
    expect(document.dials[0]!.drives).toEqual(
      expect.arrayContaining([
        { layer: 'wear-2', entry: 1, field: 'value', scale: 1, offset: 0 },
        { node: 'noise-2', field: 'gain', scale: 0.5, offset: 0 },
      ]),
    )
    const linked = changed((draft) => void duplicateLayer(draft, 'rust', true))
    expect(findPlain(linked, 'rust-2')!.cells).toEqual(findPlain(linked, 'rust')!.cells)
    expect(findLayer(linked, 'rust-2')!.name).toBe('Rust, linked')
    expect([...sharedNodes(linked, 'rust-2').keys()].sort()).toEqual(['noise', 'soft', 'tint'])
    const own = produce(linked, (draft) => giveOwnNodes(draft, 'rust-2'))
    expect(sharedNodes(own, 'rust-2').size).toBe(0)
    expect(findPlain(own, 'rust')!.cells).toEqual(findPlain(linked, 'rust')!.cells)
  })

  it('take taps, their readers and drives with them when deleted', () => {
    const document = changed((draft) => {
      setCell(draft, 'base', 'emission', { source: { tap: 'rusty' } })
      deleteLayer(draft, 'wear')
    })
    expect(order(document)).toBe('base overall')
    expect(Object.keys(document.taps)).toEqual(['grain'])
    expect(findPlain(document, 'base')!.cells.emission).toBeUndefined()
    expect(drives(document)).toHaveLength(2)
  })

  it('move above, below and into groups, never into themselves', () => {
    expect(order(changed((d) => moveLayer(d, 'overall', { beside: 'base', side: 'below' })))).toBe(
      'overall base wear(rust dust)',
    )
    expect(order(changed((d) => moveLayer(d, 'base', { into: 'wear' })))).toBe('wear(rust dust base) overall')
    expect(order(changed((d) => moveLayer(d, 'rust', { beside: 'base', side: 'above' })))).toBe(
      'base rust wear(dust) overall',
    )
    const document = sheet()
    for (const landing of [{ into: 'wear' }, { beside: 'rust', side: 'above' as const }, { into: 'base' }])
      expect(moveLayer(document, 'wear', landing)).toBe(false)
    expect(order(document)).toBe(order(sheet()))
  })

  it('step out of groups at their edge, and into the group beside them', () => {
    expect(order(changed((d) => stepLayer(d, 'dust', 1)))).toBe('base wear(rust) dust overall')
    expect(order(changed((d) => stepLayer(d, 'rust', -1)))).toBe('base rust wear(dust) overall')
    expect(order(changed((d) => stepLayer(d, 'overall', -1)))).toBe('base overall wear(rust dust)')
    expect(order(changed((d) => enterGroup(d, 'overall')))).toBe('base wear(rust dust overall)')
    expect(stepLayer(sheet(), 'overall', 1)).toBe(false)
  })

  it('stay sound and whole under any run of moves', () => {
    const ids = ['base', 'wear', 'rust', 'dust', 'overall']
    const move = fc.record({ id: fc.constantFrom(...ids), to: fc.constantFrom(...ids), how: fc.nat(4) })
    fc.assert(
      fc.property(fc.array(move, { maxLength: 12 }), (moves) => {
        const document = sheet()
        for (const { id, to, how } of moves)
          if (how === 0) moveLayer(document, id, { beside: to, side: 'above' })
          else if (how === 1) moveLayer(document, id, { beside: to, side: 'below' })
          else if (how === 2) moveLayer(document, id, { into: to })
          else stepLayer(document, id, how === 3 ? 1 : -1)
        expect([...allLayers(document.layers)].map((layer) => layer.id).sort()).toEqual([...ids].sort())
        parseDocument(JSON.parse(JSON.stringify(document)))
      }),
    )
  })
})

describe('masks', () => {
  it('keep dials on their entries when entries move or go', () => {
    const moved = changed((draft) => moveMaskEntry(draft, 'wear', 2, 0))
    expect(findLayer(moved, 'wear')!.mask.map((entry) => entry.source)).toEqual([
      { value: 0.75 },
      { node: 'soft.result' },
      { value: 0.25 },
    ])
    expect(drives(moved).map((drive) => ('entry' in drive ? drive.entry : null))).toEqual([2, 0, null, null])
    const less = changed((draft) => deleteMaskEntry(draft, 'wear', 1))
    expect(drives(less).map((drive) => ('entry' in drive ? drive.entry : null))).toEqual([1, null, null])
  })

  it('are grouped: a copy stays in the group, an entry copied alone leaves it, the lowest joins nothing', () => {
    const joined = (document: MaterialDocument) => findLayer(document, 'wear')!.mask.map((entry) => !!entry.joined)
    const grouped = changed((draft) => {
      joinEntry(draft, 'wear', 0, true)
      joinEntry(draft, 'wear', 1, true)
    })
    expect(joined(grouped)).toEqual([false, true, false])
    expect(joined(produce(grouped, (draft) => duplicateEntry(draft, 'wear', 0)))).toEqual([false, true, true, false])
    expect(joined(produce(grouped, (draft) => duplicateEntry(draft, 'wear', 2)))).toEqual([false, true, false, false])
    const alone = readClip(clipMask(grouped, 'wear', 1)!, registry)
    expect(alone.layers[0]!.mask.map((entry) => !!entry.joined)).toEqual([false])
    expect(joined(produce(grouped, (draft) => joinEntry(draft, 'wear', 1, false)))).toEqual([false, false, false])
  })

  it('take a new entry on top', () => {
    const document = changed((draft) => expect(addMaskEntry(draft, 'base', { node: 'noise.grey' })).toBe(0))
    expect(findLayer(document, 'base')!.mask[0]).toMatchObject({ mode: 'multiply', amount: 1, invert: false })
  })
})

describe('own channels', () => {
  it('come with an id of their own and go with all that names them', () => {
    const document = changed((draft) => {
      const id = addChannel(draft, 'Height', 'grey', ['height'])
      expect(id).toBe('height-2')
      setCell(draft, 'base', id, value(0.3))
      setCell(draft, 'overall', id, { source: { backdrop: id } })
      expandDocument(draft, registry, [parseOutput(id)])
      deleteChannel(draft, id)
    })
    expect(document).toEqual(sheet())
  })
})
