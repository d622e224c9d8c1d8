import { documentOf, evaluateOutputs } from '#core/testing/examples'
import { layersAt, topmostOf } from './layers-at'

const layer = (id: string, more: object = {}, cell: object = {}) => ({
  kind: 'layer',
  id,
  name: id,
  cells: { roughness: { source: { value: 0.5 }, ...cell } },
  ...more,
})
const masks = (values: Record<string, number>) => (id: string) => values[id] ?? 1

describe('what lies at a place', () => {
  it('comes top first, each with what those above leave of it', () => {
    const document = documentOf({ layers: [layer('stone'), layer('silt', { amount: 0.5 }), layer('moss')] })
    const found = layersAt(document, 'roughness', masks({ moss: 0.25, silt: 0.8 }))
    expect(found.map((one) => one.layer)).toEqual(['moss', 'silt', 'stone'])
    expect(found.map((one) => one.covers)).toEqual([0.25, 0.4, 1])
    expect(found.map((one) => one.shows)).toEqual([0.25, 0.75 * 0.4, expect.closeTo(0.75 * 0.6, 12)])
    expect(topmostOf(found)?.layer).toBe('moss')
  })

  it('leaves out what is off, what its mask takes away, and what has nothing in the channel', () => {
    const document = documentOf({
      layers: [
        layer('stone'),
        layer('off', { off: true }),
        layer('away'),
        layer('dry', { cells: {} }),
        layer('nil', {}, { amount: 0 }),
      ],
    })
    expect(layersAt(document, 'roughness', masks({ away: 0 })).map((one) => one.layer)).toEqual(['stone'])
    expect(topmostOf([])).toBeNull()
  })

  it('counts the groups around a layer, and hides nothing by a correction or another blend', () => {
    const document = documentOf({
      layers: [
        layer('stone'),
        { kind: 'group', id: 'wet', name: 'wet', amount: 0.5, layers: [layer('water')] },
        layer('dark', {}, { blend: 'multiply' }),
        layer('tune', { kind: 'correction' }),
      ],
    })
    const found = layersAt(document, 'roughness', masks({ wet: 0.5 }))
    expect(found.map(({ layer: id, shows }) => [id, shows])).toEqual([
      ['tune', 1],
      ['dark', 1],
      ['water', 0.25],
      ['stone', 0.75],
    ])
    expect(topmostOf(found)?.layer).toBe('dark')
  })

  it('passes a faint veil by for what shows through it', () => {
    const document = documentOf({ layers: [layer('stone'), layer('veil')] })
    const found = layersAt(document, 'roughness', masks({ veil: 0.2 }))
    expect(topmostOf(found)?.layer).toBe('stone')
  })

  it('adds up to what is evaluated, where layers blend normally', async () => {
    const value = (v: number) => ({ source: { value: v } })
    const document = documentOf({
      layers: [
        layer('a', {}, value(0.25)),
        layer('b', { mask: [{ source: { value: 0.75 } }] }, value(1)),
        { kind: 'group', id: 'g', name: 'g', amount: 0.5, layers: [layer('c', { amount: 0.5 }, value(0))] },
      ],
    })
    const shows = layersAt(document, 'roughness', masks({ b: 0.75 }))
    const values: Record<string, number> = { a: 0.25, b: 1, c: 0 }
    const summed = shows.reduce((sum, one) => sum + one.shows * values[one.layer]!, 0)
    const { fields } = await evaluateOutputs(document, ['roughness'], 4)
    expect(fields.get('roughness')!.planes[0]![0]).toBeCloseTo(summed, 6)
  })
})
