import type { Group, MaterialDocument } from '../document'
import { allLayers } from '../document'
import { evaluateOutputs } from '../../testing/examples'
import { solo, setOff, without } from './focus'
import { findPlain } from './layers'
import { sheet } from '../../testing/sheet'

describe('looking at a part', () => {
  const bits = async (document: MaterialDocument, output: string) => [
    ...(await evaluateOutputs(document, [output], 8)).fields.get(output)!.planes[0]!.slice(0, 8),
  ]

  it('held before is the document with it off, and the document stays as it was', async () => {
    const document = sheet()
    const off = sheet()
    setOff(off, { layer: 'wear' }, true)
    expect(await bits(without(document, { layer: 'wear' }), 'colour')).toEqual(await bits(off, 'colour'))
    expect(document).toEqual(sheet())
    expect(without(off, { layer: 'wear' })).toEqual(document)
  })

  it('alone leaves the layer, the groups around it and what it holds', () => {
    const on = (document: MaterialDocument) =>
      [...allLayers(document.layers)].filter((layer) => !layer.off).map((layer) => layer.id)
    expect(on(solo(sheet(), { layer: 'rust' }))).toEqual(['wear', 'rust'])
    const document = sheet()
    setOff(document, { layer: 'dust' }, true)
    expect(on(solo(document, { layer: 'wear' }))).toEqual(['wear', 'rust'])
    const cell = solo(sheet(), { layer: 'rust', channel: 'colour' })
    expect(findPlain(cell, 'base')!.cells.colour!.off).toBe(true)
    expect(findPlain(cell, 'base')!.cells.roughness!.off).toBeUndefined()
    const entry = solo(sheet(), { layer: 'wear', entry: 1 })
    expect((entry.layers[1] as Group).mask.map((one) => one.off)).toEqual([true, false, true])
  })
})
