import fc from 'fast-check'
import type { Group, MaterialDocument } from '../graph/document'
import { allLayers, parseDocument } from '../graph/document'
import { fittingNodes, fitOf, portTypes } from '../graph/port-types'
import { applyDials } from '../layers/dials'
import { expandDocument, expandWhatFits } from '../layers/expand'
import { registry } from '../nodes/registry.generated'
import { documentOf, evaluateOutputs } from '../testing/examples'
import { bindDial, canDrive, dialValueFor, driverOf, makeDial, moveDial, setTarget, shapeOf, unbind } from './dials'
import { alone, setOff, toggled } from './focus'
import {
  addChannel,
  addLayer,
  addMaskEntry,
  clearCell,
  deleteChannel,
  deleteLayer,
  deleteMaskEntry,
  duplicateLayer,
  enterGroup,
  findLayer,
  findPlain,
  moveLayer,
  moveMaskEntry,
  setCell,
  stepLayer,
} from './layers'
import {
  addNode,
  connect,
  copyCell,
  copyNodes,
  deleteNodes,
  duplicateNodes,
  feedersOf,
  linkCell,
  pasteNodes,
  usesOf,
  wouldCircle,
} from './nodes'

const value = (v: number | string) => ({ source: { value: v } })

/** Three layers, a group of two, a chain of nodes, a tap, a dial on each kind of target. */
const sheet = (): MaterialDocument =>
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
      { kind: 'correction', id: 'overall', name: 'Overall', cells: { roughness: { source: { below: 'roughness' } } } },
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

const order = (document: MaterialDocument): string => {
  const list = (layers: MaterialDocument['layers']): string =>
    layers.map((layer) => (layer.kind === 'group' ? `${layer.id}(${list(layer.layers)})` : layer.id)).join(' ')
  return list(document.layers)
}
/** A document is sound if it reads and every channel can be built. */
const sound = (document: MaterialDocument): MaterialDocument => {
  const read = parseDocument(JSON.parse(JSON.stringify(document)))
  expandDocument(read, registry, ['colour', 'height', 'roughness', 'metallic', 'normal', 'occlusion'])
  return read
}
const changed = (work: (draft: MaterialDocument) => unknown, from = sheet()): MaterialDocument => {
  work(from)
  return sound(from)
}
const drives = (document: MaterialDocument) => document.dials[0]!.drives

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
    expect(findPlain(document, 'rust-2')!.cells.colour).toEqual(findPlain(document, 'rust')!.cells.colour)
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

  it('take a new entry on top', () => {
    const document = changed((draft) => expect(addMaskEntry(draft, 'base', { node: 'noise.grey' })).toBe(0))
    expect(findLayer(document, 'base')!.mask[0]).toMatchObject({ mode: 'multiply', amount: 1, invert: false })
  })
})

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

describe('own channels', () => {
  it('come with an id of their own and go with all that names them', () => {
    const document = changed((draft) => {
      const id = addChannel(draft, 'Height', 'grey', ['height'])
      expect(id).toBe('height-2')
      setCell(draft, 'base', id, value(0.3))
      setCell(draft, 'overall', id, { source: { below: id } })
      expandDocument(draft, registry, [id])
      deleteChannel(draft, id)
    })
    expect(document).toEqual(sheet())
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
  })

  it('are duplicated with the wires among them', () => {
    const document = changed((draft) => void duplicateNodes(draft, ['soft', 'tint']))
    expect(document.nodes['tint-2']!.inputs).toEqual({ source: 'soft-2.result' })
    expect(document.nodes['soft-2']!.inputs).toEqual({ source: 'noise.grey' })
  })

  it('travel as text into another document, loose where they led out', () => {
    const text = copyNodes(sheet(), ['soft', 'tint'])
    const other = documentOf({ nodes: { soft: { type: 'invert', inputs: { source: { value: 1 } } } } })
    expect(pasteNodes(other, text, registry, [10, 10])).toEqual(['soft-2', 'tint'])
    expect(other.nodes['soft-2']!.inputs).toEqual({})
    expect(other.nodes.tint!.inputs).toEqual({ source: 'soft-2.result' })
    for (const [bad, word] of [
      ['hello', 'not JSON'],
      ['{"format":"x"}', 'expected "format"'],
      ['{"format":"amber-grist/nodes","version":1,"nodes":{"a":{"type":"nope"}}}', 'no node type'],
      ['{"format":"amber-grist/nodes","version":1,"nodes":{"a":{"type":5}}}', 'received 5'],
    ] as const)
      expect(() => pasteNodes(other, bad, registry, [0, 0])).toThrow(word)
  })
})

describe('wires', () => {
  it('are judged by type, with the conversion or the reason', () => {
    expect(fitOf('grey', 'grey')).toEqual({ kind: 'same' })
    expect(fitOf('colour', 'grey')).toEqual({ kind: 'converted', key: 'colour>grey' })
    expect(fitOf('colour', 'grey', ['grey', 'colour'])).toEqual({ kind: 'same' })
    expect(fitOf('grey', 'normal')).toMatchObject({
      kind: 'refused',
      reason: expect.stringContaining('height-to-normal'),
    })
    expect(fitOf('count', 'same', ['grey', 'colour'])).toMatchObject({ kind: 'refused' })
  })

  it('are judged as the graph judges them when it is built', () => {
    const sources: Record<string, [string, string]> = {
      grey: ['noise', 'grey'],
      colour: ['gradient-remap', 'result'],
      normal: ['height-to-normal', 'normal'],
      count: ['cells', 'id'],
    }
    for (const [type, [from, out]] of Object.entries(sources))
      for (const node of registry.values())
        for (const [port] of Object.entries(node.inputs)) {
          const others = Object.entries(node.inputs)
            .filter(([name, one]) => name !== port && one.otherwise === undefined)
            .map(([name, one]) => [name, one.type === 'normal' ? { value: '#8080ff' } : { value: 0.5 }])
          const given = { source: { value: 0.5 }, height: { value: 0.5 } }
          const fed = Object.fromEntries(Object.entries(given).filter(([name]) => name in registry.get(from)!.inputs))
          const documentWith = (inputs: object) =>
            documentOf({ nodes: { from: { type: from, inputs: fed }, to: { type: node.type, inputs } } })
          const to = portTypes(documentWith(Object.fromEntries(others)), registry).input('to', port)!
          const fit = fitOf(type as never, to, node.sameTypes)
          const document = documentWith({ ...Object.fromEntries(others), [port]: `from.${out}` })
          const output = `to.${Object.keys(node.outputs)[0]!}`
          const fault = expandWhatFits(document, registry, [output]).faults.get(output)
          // Another input may be at fault: a needed normal has no plain value.
          if (fault?.place.parameter !== undefined && fault.place.parameter !== port) continue
          expect([type, node.type, port, fit.kind === 'refused']).toEqual([type, node.type, port, fault !== undefined])
        }
  })

  it('carry what the graph gives them', () => {
    const document = sheet()
    const types = portTypes(document, registry)
    const outputs = Object.entries(document.nodes).flatMap(([id, { type }]) =>
      Object.keys(registry.get(type)!.outputs).map((port) => `${id}.${port}`),
    )
    const graph = expandDocument(document, registry, outputs)
    for (const output of outputs) {
      const ref = graph.outputs.get(output)!
      expect([output, types.output(output)]).toEqual([output, ref.step.outputs[ref.port]])
    }
    expect(types.output('noise.nothing')).toBeNull()
    expect(types.input('soft', 'source')).toBe('grey')
  })

  it('offer what fits at a loose end, exact types first', () => {
    expect(fittingNodes(registry, 'grey', 'input').map((one) => one.node.type)).toContain('height-to-normal')
    const ends = fittingNodes(registry, 'colour', 'input')
    expect(ends[0]!.converted).toBe(false)
    const firstConverted = ends.findIndex((one) => one.converted)
    expect(ends.slice(firstConverted).every((one) => one.converted)).toBe(true)
    expect(firstConverted).toBeGreaterThan(0)
    const normals = fittingNodes(registry, 'normal', 'output')
    expect(normals[0]!.node.outputs[normals[0]!.port]!.type).toBe('normal')
    expect(fittingNodes(registry, 'vector', 'input').map((one) => one.node.type)).toContain('push')
  })

  it('give a circle types without ending in one', () => {
    const document = documentOf({
      nodes: {
        a: { type: 'invert', inputs: { source: 'b.result' } },
        b: { type: 'invert', inputs: { source: 'a.result' } },
      },
    })
    expect(portTypes(document, registry).output('a.result')).toBe('grey')
    expect(feedersOf(document, { node: 'a.result' })).toEqual(['a', 'b'])
    expect(expandWhatFits(document, registry, ['a.result', 'height']).faults.get('a.result')!.code).toBe('cycle')
  })
})

describe('dials', () => {
  const gain = { node: 'noise', field: 'gain' }

  it('are made from parameters, standing where those stand', async () => {
    const parameter = registry.get('noise')!.params.gain!
    const document = sheet()
    const before = await evaluateOutputs(document, ['noise.grey'], 16)
    const value = Number(applyDials(document).nodes.noise!.params!.gain)
    unbind(document, gain)
    const id = makeDial(document, 'Gain', shapeOf('gain', parameter)!, gain, value)
    sound(document)
    expect(driverOf(document, gain)!.dial.id).toBe(id)
    const after = await evaluateOutputs(document, ['noise.grey'], 16)
    expect(after.fields.get('noise.grey')!.planes[0]).toEqual(before.fields.get('noise.grey')!.planes[0])
  })

  it('keep a number that is bound to them where it was', () => {
    const document = sheet()
    document.nodes.noise!.params = { gain: 0.7 }
    bindDial(document, 'worn', gain, 0.7)
    expect(applyDials(document).nodes.noise!.params!.gain).toBeCloseTo(0.7, 12)
    expect(drives(document).filter((drive) => 'node' in drive)).toHaveLength(1)
  })

  it('turn to what gives a wanted value, within their range', () => {
    const document = sheet()
    const { dial, drive } = driverOf(document, gain)!
    expect(dialValueFor(dial, drive, 0.4)).toBe(0.8)
    expect(dialValueFor(dial, drive, 3)).toBe(1)
  })

  it('are what is turned when the target they drive is set, and free targets are set directly', () => {
    const document = sheet()
    setTarget(document, gain, 0.3)
    expect(document.dials[0]!.value).toBe(0.6)
    expect(document.nodes.noise!.params).toBeUndefined()
    setTarget(document, { node: 'noise', field: 'cells.1' }, 3, [8, 8])
    setTarget(document, { layer: 'rust', channel: 'colour', field: 'amount' }, 0.5)
    setTarget(document, { layer: 'rust', channel: 'colour', field: 'value' }, '#112233')
    setTarget(document, { layer: 'wear', entry: 0, field: 'mode' }, 'maximum')
    setTarget(document, { layer: 'nowhere', field: 'amount' }, 0.5)
    const read = sound(document)
    expect(read.nodes.noise!.params).toEqual({ cells: [8, 3] })
    expect(findPlain(read, 'rust')!.cells.colour).toMatchObject({ amount: 0.5, source: { value: '#112233' } })
    expect(findLayer(read, 'wear')!.mask[0]!.mode).toBe('maximum')
  })

  it('drive only what they can', () => {
    const [number] = sheet().dials
    expect(canDrive(number!, { kind: 'whole' })).toBe(true)
    expect(canDrive(number!, { kind: 'colour' })).toBe(false)
    expect(shapeOf('seed', registry.get('noise')!.params.seed!)!.kind).toBe('seed')
    expect(shapeOf('stops', registry.get('gradient-remap')!.params.stops!)).toBeNull()
  })

  it('move among sections', () => {
    const document = sheet()
    makeDial(document, 'Second', { kind: 'number', min: 0, max: 1 }, { layer: 'base', field: 'amount' }, 1)
    moveDial(document, 'second', 'worn', 'Wear')
    expect(document.dials.map(({ id, section }) => [id, section])).toEqual([
      ['second', 'Wear'],
      ['worn', undefined],
    ])
  })
})

describe('looking at a part', () => {
  const bits = async (document: MaterialDocument, output: string) => [
    ...(await evaluateOutputs(document, [output], 8)).fields.get(output)!.planes[0]!.slice(0, 8),
  ]

  it('held before is the document with it off, and the document stays as it was', async () => {
    const document = sheet()
    const off = sheet()
    setOff(off, { layer: 'wear' }, true)
    expect(await bits(toggled(document, { layer: 'wear' }), 'colour')).toEqual(await bits(off, 'colour'))
    expect(document).toEqual(sheet())
    expect(toggled(off, { layer: 'wear' })).toEqual(document)
  })

  it('alone leaves the layer, the groups around it and what it holds', () => {
    const on = (document: MaterialDocument) =>
      [...allLayers(document.layers)].filter((layer) => !layer.off).map((layer) => layer.id)
    expect(on(alone(sheet(), { layer: 'rust' }))).toEqual(['wear', 'rust'])
    const document = sheet()
    setOff(document, { layer: 'dust' }, true)
    expect(on(alone(document, { layer: 'wear' }))).toEqual(['wear', 'rust'])
    const cell = alone(sheet(), { layer: 'rust', channel: 'colour' })
    expect(findPlain(cell, 'base')!.cells.colour!.off).toBe(true)
    expect(findPlain(cell, 'base')!.cells.roughness!.off).toBeUndefined()
    const entry = alone(sheet(), { layer: 'wear', entry: 1 })
    expect((entry.layers[1] as Group).mask.map((one) => one.off)).toEqual([true, false, true])
  })
})

describe('a sheet with something broken in it', () => {
  it('still gives everything else, with the fault at its place', () => {
    const document = sheet()
    addNode(document, registry.get('blur')!)
    connect(document, 'tint', 'source', { node: 'blur.result' })
    const { outputs, faults } = expandWhatFits(document, registry, [
      'colour',
      'height',
      'cell:base:colour',
      'cell:rust:colour',
      'entry:wear:0',
      'entry:wear:7',
      'layer:wear:mask',
    ])
    expect([...outputs.keys()]).toEqual(['height', 'cell:base:colour', 'entry:wear:0', 'layer:wear:mask'])
    expect(faults.get('colour')).toMatchObject({ code: 'input-missing', place: { node: 'blur' } })
    expect(faults.get('entry:wear:7')!.code).toBe('reference-unknown')
  })
})
