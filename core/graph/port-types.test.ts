import { Composition } from '../compose/composition'
import { parseOutput } from '../document/address'
import { fittingNodes, fittingPort, fitOf, openTypes, portTypes } from './port-types'
import { expandDocument, expandPartial } from '../compose/expand'
import { registry } from '../nodes/registry.generated'
import { documentOf } from '../testing/examples'
import { addNode, connect, feedersOf } from '../document/edits/nodes'
import { sheet } from '../testing/sheet'

describe('wires', () => {
  it('are judged by type, with the conversion or the reason', () => {
    expect(fitOf('grey', 'grey')).toEqual({ kind: 'same' })
    expect(fitOf('colour', 'grey')).toEqual({ kind: 'converted', key: 'colour>grey' })
    expect(fitOf('colour', 'grey', ['grey', 'colour'])).toEqual({ kind: 'same' })
    expect(fitOf('grey', 'normal')).toMatchObject({
      kind: 'refused',
      reason: expect.stringContaining('height-to-normal'),
    })
    expect(fitOf('id', 'any', ['grey', 'colour'])).toMatchObject({ kind: 'refused' })
  })

  it('are judged as the graph judges them when it is built', () => {
    const sources: Record<string, [string, string]> = {
      grey: ['noise', 'grey'],
      colour: ['gradient-remap', 'result'],
      normal: ['height-to-normal', 'normal'],
      id: ['cells', 'id'],
    }
    for (const [type, [from, out]] of Object.entries(sources))
      for (const node of registry.values())
        for (const [port] of Object.entries(node.inputs)) {
          const others = Object.entries(node.inputs)
            .filter(([name, one]) => name !== port && one.whenUnconnected === undefined)
            .map(([name, one]) => [name, one.type === 'normal' ? { value: '#8080ff' } : { value: 0.5 }])
          const given = { source: { value: 0.5 }, height: { value: 0.5 } }
          const fed = Object.fromEntries(Object.entries(given).filter(([name]) => name in registry.get(from)!.inputs))
          const documentWith = (inputs: object) =>
            documentOf({ nodes: { from: { type: from, inputs: fed }, to: { type: node.type, inputs } } })
          const to = portTypes(documentWith(Object.fromEntries(others)), registry).input('to', port)!
          const fit = fitOf(type as never, to, openTypes(node, port))
          const document = documentWith({ ...Object.fromEntries(others), [port]: `from.${out}` })
          const output = `to.${Object.keys(node.outputs)[0]!}`
          const fault = expandPartial(new Composition(document, registry), [parseOutput(output)]).faults.get(output)
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
    const graph = expandDocument(document, registry, outputs.map(parseOutput))
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
    expect(fittingNodes(registry, 'vector', 'input').map((one) => one.node.type)).toContain('warp')
  })

  it('offer what is usual at a wire of their type first', () => {
    const order = fittingNodes(registry, 'grey', 'input').map((one) => one.node.type)
    const at = (type: string): number => order.indexOf(type)
    for (const type of ['threshold', 'levels', 'blend', 'bevel', 'gradient-remap'])
      expect([type, at(type) < at('adjust-colour')]).toEqual([type, true])
    expect(fittingNodes(registry, 'normal', 'input')[0]!.node.type).toBe('combine-normals')
  })

  it('take the port that suits them best', () => {
    const port = (type: string, wire: 'grey' | 'colour' | 'normal', end: 'input' | 'output') =>
      fittingPort(registry.get(type)!, wire, end)?.port ?? null
    expect(port('warp', 'grey', 'input')).toBe('source')
    expect(port('cells', 'grey', 'output')).toBe('nearest')
    expect(port('image', 'grey', 'output')).toBe('stored')
    expect(port('image', 'colour', 'output')).toBe('colour')
    expect(port('height-to-normal', 'normal', 'input')).toBeNull()
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
    expect(
      expandPartial(new Composition(document, registry), ['a.result', 'height'].map(parseOutput)).faults.get(
        'a.result',
      )!.code,
    ).toBe('cycle')
  })
})

describe('a sheet with something broken in it', () => {
  it('still gives everything else, with the fault at its place', () => {
    const document = sheet()
    addNode(document, registry.get('blur')!)
    connect(document, 'tint', 'source', { node: 'blur.result' })
    const { outputs, faults } = expandPartial(
      new Composition(document, registry),
      [
        'colour',
        'height',
        'cell:base:colour',
        'cell:rust:colour',
        'entry:wear:0',
        'entry:wear:7',
        'layer:wear:mask',
      ].map(parseOutput),
    )
    // Blur passes nothing through, as nothing comes in; tint, which it feeds, neither.
    expect([...outputs.keys()]).toEqual(['colour', 'height', 'cell:base:colour', 'entry:wear:0', 'layer:wear:mask'])
    expect([...faults.keys()]).toEqual(['colour', 'cell:rust:colour', 'entry:wear:7'])
    expect(faults.get('colour')).toMatchObject({ code: 'input-missing', place: { node: 'blur' } })
    expect(faults.get('entry:wear:7')!.code).toBe('reference-unknown')
  })
})
